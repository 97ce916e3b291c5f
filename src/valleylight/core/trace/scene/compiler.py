"""From a project's description to a scene that can be traced."""

from __future__ import annotations

import os
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.lamps.bodies import MATERIALS as BODY_MATERIALS
from valleylight.core.lamps.bodies import BodyMesh
from valleylight.core.lamps.compile import Lamps
from valleylight.core.photometry import Photometry
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Occasion, Opening, Placement, View
from valleylight.core.project.sky import PictureSky
from valleylight.core.sky.picture import Surroundings, read_picture
from valleylight.core.stage import Material, StageData
from valleylight.core.stage.channels import Laid
from valleylight.core.stage.dressing import PictureOf, dressed, laid, uv_metres
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.camera import camera_array, directions_over
from valleylight.core.trace.arrays.scene import NO_FINE_SKY, NO_NET, NO_WEATHER, SceneArrays
from valleylight.core.trace.integrator.glass import lens_in
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.nextevent.sunlit import NOWHERE, sunlit_places
from valleylight.core.trace.photonmap.net import net_arrays, sees
from valleylight.core.trace.scene.fixtures import Fixtures, bodies_key, lamp_arrays, light_groups
from valleylight.core.trace.scene.geometry import (
    Geometry,
    StageGeometry,
    build_geometry,
    traits_of,
    with_bodies,
    with_more,
)
from valleylight.core.trace.scene.kept import Kept, digest
from valleylight.core.trace.scene.leaving import Litter, in_leaf, litter_of
from valleylight.core.trace.scene.lighting import Daylight, daylight_of, seen_finely
from valleylight.core.trace.scene.loose import LooseShapes, loose_shapes, may_be_loose, with_loose
from valleylight.core.trace.scene.materials import (
    Emitters,
    Reduced,
    as_card,
    emitters,
    kind_of,
    material_table,
    pictures,
)
from valleylight.core.trace.scene.openings import find_openings
from valleylight.core.trace.scene.origin import frame_about
from valleylight.core.trace.scene.quality import Quality
from valleylight.core.trace.scene.rooms import SELDOM, is_shut, with_rooms
from valleylight.core.trace.scene.settings import settings_of
from valleylight.core.trace.scene.stages import KEPT_STAGES, Placed, Stages
from valleylight.core.trace.scene.tables import air_array, opening_array, sky_arrays, sun_array
from valleylight.core.trace.scene.weathering import (
    Lying,
    in_wind,
    lying_on,
    materials_of,
    near_grid,
    nothing_lying,
    wind_of,
)
from valleylight.core.trace.weather.falling import falling
from valleylight.core.trace.weather.layers import Layers
from valleylight.core.weather.slopes import SHELTERED

LARGEST_SIDE = 8192
KEPT_GEOMETRIES, KEPT_NETS, KEPT_WEATHERS, KEPT_PICTURES = 4, 2, 2, 256
#: Triangles of all stages kept together at most: some two gigabytes of them.
MOST_TRIANGLES = 5_000_000
#: The white matt card of a light meter; the last material of every scene.
CARD = Material(name="meter", base=(1.0, 1.0, 1.0), roughness=1.0, specular=0.0, uncovered=True)


@dataclass(frozen=True)
class RenderScene:
    """A view at an occasion, ready to trace. Keeps alive what the kernels point at.

    All that kernels read is given about `origin` (3,), the stage's own, in metres of the model; see origin.py."""

    arrays: SceneArrays
    camera: NDArray[np.float64]
    settings: NDArray[np.float64]
    group_names: tuple[str, ...]
    daylight: Daylight
    lamps: Lamps
    geometry: Geometry
    materials: tuple[Material, ...]
    origin: NDArray[np.float64]


@dataclass(frozen=True)
class _Shape:
    """What stands in the way of rays, and the name it is kept under; `fast_key` leaves out the bodies of fixtures and what is loose."""

    geometry: Geometry
    stage: StageGeometry
    fast_key: Hashable
    key: Hashable


def without_boxes(project: LoadedProject) -> LoadedProject:
    """The project with everything in its own shape, whatever is tried as boxes."""
    wanted = project.description
    if not wanted.stage.boxed:
        return project
    whole = wanted.model_copy(update={"stage": wanted.stage.model_copy(update={"boxed": ()})})
    return replace(project, description=whole)


class Compiler:
    """Compiles project descriptions to scenes and keeps the costly parts by what they depend on.

    A `stage` given outright stands in for the models of every project, a `profile` for those of all fixtures.
    """

    def __init__(self, stage: StageData | None = None, profile: Photometry | None = None) -> None:
        self._stages = Stages(stage)
        self._fixtures = Fixtures(profile)
        self._pictures: Kept[dict[str, object]] = Kept(KEPT_STAGES)
        self._reduced = Reduced()
        self._own_pictures: Kept[Laid] = Kept(KEPT_PICTURES)
        self._uv_metres: Kept[dict[int, float]] = Kept(KEPT_STAGES)
        self._surroundings: Kept[Surroundings] = Kept(KEPT_STAGES)
        self._stages_built: Kept[StageGeometry] = Kept(KEPT_GEOMETRIES, _triangles, MOST_TRIANGLES)
        self._loose: Kept[LooseShapes] = Kept(KEPT_GEOMETRIES)
        self._geometries: Kept[tuple[Geometry, StageGeometry]] = Kept(
            KEPT_GEOMETRIES, lambda both: _triangles(both[1]), MOST_TRIANGLES
        )
        self._openings: Kept[NDArray[np.float64]] = Kept(KEPT_GEOMETRIES)
        self._emitters: Kept[Emitters] = Kept(KEPT_GEOMETRIES)
        self._nets: Kept[dict[str, object]] = Kept(KEPT_NETS)
        self._layers: Kept[Layers] = Kept(KEPT_GEOMETRIES)
        self._lying: Kept[Lying] = Kept(KEPT_WEATHERS)
        self._weathered: Kept[Geometry] = Kept(KEPT_WEATHERS)

    def stage(self, project: LoadedProject) -> StageData:
        """The imported stage of a project, in the model's coordinates. Raises InputError for a file that cannot be read."""
        return self._stages.stage(project)

    def file(self, project: LoadedProject, placement: Placement) -> StageData:
        """What the file of one thing on the stage holds, in its own frame."""
        return self._stages.file(project, placement)

    def has_read(self, project: LoadedProject) -> bool:
        """Whether the models of a project have been read: the first reading of large ones takes seconds."""
        return self._stages.has_read(project)

    def profile(self, project: LoadedProject, sha256: str) -> Photometry:
        """A measured profile by the SHA-256 of its file. Raises InputError for a file that cannot be read."""
        return self._fixtures.profile(project, sha256)

    def picture(self, project: LoadedProject, sky: PictureSky) -> Surroundings:
        """A picture of surroundings, read once."""
        return self._surroundings.get(sky.asset, lambda: read_picture(project.asset(sky.asset), sky.name or "picture"))

    def scene(
        self,
        project: LoadedProject,
        view: View,
        occasion: Occasion,
        width: int,
        height: int,
        seed: int,
        quality: Quality,
    ) -> RenderScene:
        """Everything a trace of the view needs. Raises InputError for sizes outside 8 to 8192."""
        if not (8 <= width <= LARGEST_SIDE and 8 <= height <= LARGEST_SIDE):
            raise InputError(
                f"a picture of {width} x {height} is outside the range", "size", f"Choose 8 to {LARGEST_SIDE} pixels"
            )
        project = project if quality.boxes else without_boxes(project)
        placed = self._stages.placed(project, view, occasion)
        worn, laid_on = self._dressed(project, placed.stage)
        grown = in_leaf(worn.materials, worn.textures, placed.occasion, placed.description.site)
        worn = replace(worn, materials=grown)
        blown = in_wind(worn.materials, placed.occasion.weather)
        materials = as_card(blown) if placed.description.stage.white_card else blown
        weather = placed.occasion.weather
        fallen = litter_of(materials, placed.occasion, placed.description.site)
        lies = weather.lies or fallen.lies
        falls_or_lies = (lies or weather.falls) and not placed.description.stage.white_card
        whole = (*materials, *BODY_MATERIALS, *(materials_of(weather) if falls_or_lies else ()), CARD)
        table = material_table(whole, placed.origin)
        groups = light_groups(placed.description, placed.occasion, materials)
        lamps, grid = self._fixtures.lamps(project, placed, groups)
        shape = self._shape(project, placed, worn.materials)
        geometry = shape.geometry
        emits = self._emits(placed, shape, table)
        day = daylight_of(
            placed.description.site, placed.occasion, quality.sky_rows, lambda sky: self.picture(project, sky)
        )
        openings = self._openings_of(placed, shape, materials)
        sky = sky_arrays(day.sky, occasion.sky.haze_times)
        sky["cloud_frame"] = frame_about(day.sky.shadow_frame, placed.origin)
        arrays = SceneArrays(
            **geometry.arrays,  # type: ignore[arg-type]
            **sky,  # type: ignore[arg-type]
            **self._pictures_of(placed.stage, worn, (placed.files, laid_on)),  # type: ignore[arg-type]
            **lamp_arrays(placed.description, lamps, grid, geometry.objects),  # type: ignore[arg-type]
            materials=table,
            emitters=emits.records,
            emitter_triangle=emits.triangle,
            emitter_cdf=emits.cdf,
            sun=sun_array(day.direction, day.radius_deg, day.sun_rgb_lx),
            openings=openings,
            sun_ways=daylight.ways_of_sun(openings, day.direction),
            air=air_array(placed.occasion.air, geometry.low, geometry.high),
            **NO_WEATHER,  # type: ignore[arg-type]
            **NO_NET,  # type: ignore[arg-type]
            **NO_FINE_SKY,  # type: ignore[arg-type]
            **NOWHERE,  # type: ignore[arg-type]
        )
        camera = camera_array(placed.view, placed.view.lens_for(occasion.key).f_number, width / height)
        pixel_rad = 2 * camera[layout.CAMERA_HALF_WIDTH] / width
        arrays = arrays._replace(
            **seen_finely(day, directions_over(camera), quality.sky_pixels * pixel_rad)  # type: ignore[arg-type]
        )
        settings = settings_of(
            placed, groups, geometry, day, quality, seed, height, emits.total_cd, len(arrays.beam_lamps)
        )
        if falls_or_lies:
            bodies = self._fixtures.bodies(project, placed.description)
            arrays, geometry = self._weather(
                placed, shape, arrays, settings, camera, quality, width, len(materials), bodies, fallen
            )
        settings[layout.LENS_IN] = lens_in(arrays, settings, camera)
        arrays = self._steered(placed, shape, day, arrays, settings, camera, quality, seed)
        return RenderScene(arrays, camera, settings, groups.names, day, lamps, geometry, whole, placed.origin)

    def dressed(self, project: LoadedProject) -> StageData:
        """The stage of a project in the artist's surfaces, their pictures behind its own."""
        return self._dressed(project, self.stage(project))[0]

    def uv_metres(self, project: LoadedProject) -> dict[int, float]:
        """Metres to one turn of the uv of each material in use, by its number."""
        return self._uv_metres.get(self._stages.sizes_key(project), lambda: uv_metres(self.stage(project)))

    def _dressed(self, project: LoadedProject, stage: StageData) -> tuple[StageData, tuple[PictureOf, ...]]:
        """A stage in the artist's surfaces, and which pictures they brought."""
        if not stage.materials:
            stage = replace(stage, materials=(Material(),))

        def picture(wanted: PictureOf) -> Laid:
            return self._own_pictures.get(wanted, lambda: laid(wanted, project.asset))

        def metres(number: int) -> float:
            return self.uv_metres(project).get(number, 1.0)

        return dressed(stage, project.description.stage.surfaces, picture, metres)

    def _pictures_of(self, came: StageData, worn: StageData, key: Hashable) -> dict[str, object]:
        """The textures of a stage as it came, with those its surfaces brought."""

        def make() -> dict[str, object]:
            self._reduced.keep_only(worn.textures)
            both = (*came.materials, *worn.materials)
            coloured = {m.base_texture for m in both} | {m.emission_texture for m in both}
            return pictures(worn.textures, coloured, self._reduced)

        return self._pictures.get(key, make)

    def _shape(self, project: LoadedProject, placed: Placed, shapes: tuple[Material, ...]) -> _Shape:
        """The ray structures. A white card keeps the shapes: nothing but colours changes, and none is built anew."""
        wanted = placed.description.stage
        hidden = placed.description.hidden_at(placed.occasion)
        traits = traits_of(shapes)
        shown = [i for i in placed.stage.instances[placed.fast :] if i.layer not in hidden]
        movable = {k: may_be_loose(placed.stage.meshes[k], traits) for k in {i.mesh for i in shown}}
        loose = [i for i in shown if movable[i.mesh]]
        bound = [i for i in shown if not movable[i.mesh]]
        fast = (*placed.stage.instances[: placed.fast], *bound)
        others = [(i.mesh, i.name, i.matrix.tobytes()) for i in bound]
        flags = digest(sorted(wanted.objects.items()))
        # What is loose follows on what stands fast, in materials as in meshes: it may come and go.
        made_of = tuple(m.structure for m in (shapes if others else shapes[: placed.fast_materials]))
        fast_key = (
            placed.fast_key, placed.files if others else None, placed.origin.tobytes(), made_of, flags, hidden, tuple(others),
        )  # fmt: skip
        meshes = tuple(dict.fromkeys(i.mesh for i in loose))
        loose_of = (placed.files, tuple(m.structure for m in shapes))
        stage_key = (fast_key, loose_of, tuple((i.mesh, i.name, i.matrix.tobytes()) for i in loose))
        key = (*stage_key, bodies_key(placed.description))

        def make() -> tuple[Geometry, StageGeometry]:
            standing = replace(placed.stage, instances=fast)
            whole = self._stages_built.get(fast_key, lambda: build_geometry(standing, shapes, hidden, wanted.objects))
            if loose:
                laid = self._loose.get(
                    (fast_key, meshes, loose_of), lambda: loose_shapes(whole, placed.stage.meshes, meshes, traits)
                )
                whole = with_loose(whole, laid, placed.stage.meshes, loose, wanted.objects)
            return with_bodies(whole, self._fixtures.bodies(project, placed.description), len(shapes)), whole

        return _Shape(*self._geometries.get(key, make), fast_key, key)

    def _emits(self, placed: Placed, shape: _Shape, table: NDArray[np.float32]) -> Emitters:
        """The triangles of the stage that shine by themselves, and on others."""
        geometry = shape.geometry
        triangles: NDArray[np.float32] = geometry.arrays["triangles"]  # type: ignore[assignment]
        flags = placed.description.stage.objects
        silent = [k for k, name in enumerate(geometry.objects) if name in flags and not flags[name].sends]
        return self._emitters.get(
            (shape.fast_key, table.tobytes()), lambda: emitters(triangles[: geometry.world], table, silent)
        )

    def _openings_of(self, placed: Placed, shape: _Shape, materials: tuple[Material, ...]) -> NDArray[np.float64]:
        """Openings the models mark and the artist adds; where there are none, those their glass shows; with their rooms."""
        wanted, geometry = placed.description.stage, shape.geometry
        marked = (*placed.stage.openings, *wanted.openings)

        def find() -> tuple[Opening, ...]:
            triangles: NDArray[np.float32] = geometry.arrays["triangles"]  # type: ignore[assignment]
            world = triangles[: geometry.world]
            pane = np.array([kind_of(m) in (layout.PANE, layout.FROSTED) for m in materials])
            return find_openings(geometry.scene.handle, world[pane[world[:, layout.TRIANGLE_MATERIAL].astype(int)]])

        def make() -> NDArray[np.float64]:
            found = marked if marked or not wanted.find_openings else find()
            return with_rooms(opening_array(found), geometry.scene.handle)

        return self._openings.get((shape.key, digest(marked, wanted.find_openings)), make)

    def _weather(
        self, placed: Placed, shape: _Shape, arrays: SceneArrays, settings: NDArray[np.float64], camera: NDArray[np.float64],
        quality: Quality, columns: int, materials: int, bodies: BodyMesh | None,
        fallen: Litter,
    ) -> tuple[SceneArrays, Geometry]:  # fmt: skip
        """The arrays and the geometry with what lies on the stage and what falls before the lens."""
        weather, first = placed.occasion.weather, materials + len(BODY_MATERIALS)
        near = near_grid(placed, quality.weather_cells)
        site = placed.description.site
        # What is only in the air leaves what lies as it is.
        lasting = weather.model_copy(update={
            "snow": weather.snow.model_copy(update={"flakes_mm_h": 0.0, "flake_mm": 4.0}),
        })  # fmt: skip
        sunny = placed.occasion.when.date() if weather.snow.sun_hours > 0 else None
        table = arrays.materials
        leafy = np.stack(
            [table[:, layout.THROUGH] > 0, table[:, layout.ALPHA_TEXTURE] >= 0, table[:, layout.LEAVES] < 1]
        )
        rough = table[:, [layout.ROUGH, layout.KIND]].tobytes() + leafy.tobytes()
        key = (shape.key, digest(lasting, site, sunny), near, rough, *(leaves.tobytes() for leaves in fallen))
        top = float(shape.geometry.high[2])

        def make() -> Lying:
            def keep(of: Hashable, find: Callable[[], Layers]) -> Layers:
                return self._layers.get((shape.key, rough, of), find)

            return lying_on(arrays, settings, placed, top, near, first, fallen, keep)

        lying = self._lying.get(key, make) if weather.lies or fallen.lies else nothing_lying()
        shutter = placed.view.lens_for(placed.occasion.key).shutter_s
        seen = camera.tobytes() if weather.falls else b""
        own = (
            key,
            lying.body is not None,
            seen,
            weather if weather.falls else None,
            shutter if weather.falls else 0,
            columns if weather.falls else 0,
        )

        def build() -> Geometry:
            more = [(lying.body, rays.OPAQUE | rays.SEEN, "lying snow")] if lying.body is not None else []
            if weather.falls:
                wind = SHELTERED * wind_of(weather, site.north_deg)
                drawn = falling(arrays, settings, camera, weather, wind, shutter, columns, (first + 1, first + 2))
                more += [(mesh, rays.BY_LENS, "falling") for mesh in drawn]
            return with_bodies(with_more(shape.stage, more), bodies, materials)

        geometry = self._weathered.get(own, build)
        return arrays._replace(**geometry.arrays, **lying.arrays), geometry  # type: ignore[arg-type]

    def _steered(
        self, placed: Placed, shape: _Shape, day: Daylight, arrays: SceneArrays, settings: NDArray[np.float64],
        camera: NDArray[np.float64], quality: Quality, seed: int,
    ) -> SceneArrays:  # fmt: skip
        """The arrays with what leads rays to light they would seldom find: the net of light, sunlit places. Completes `settings`."""
        indoors = is_shut(arrays, settings, camera)
        if indoors and placed.occasion.air.outdoors:
            settings[layout.AIR_ON] = 0.0
        if indoors:
            settings[layout.DOME_SHARE], settings[layout.SELDOM] = daylight.DOME_SHARE_SHUT, SELDOM
        net = self._net(placed, shape, day, arrays, settings, camera, quality, seed)
        if net is not None:
            arrays = arrays._replace(**net)  # type: ignore[arg-type]
            settings[layout.NET_ON] = float(net is not NO_NET)
        if indoors and day.sun_up and not (day.by_moon or settings[layout.AIR_ON] or settings[layout.NET_ON]):
            places, settings[layout.SUNLIT_DENSITY] = sunlit_places(arrays, settings, quality.sunlit)
            arrays = arrays._replace(**places)  # type: ignore[arg-type]
            if len(arrays.sunlit):
                settings[layout.SPLITS] = 1  # a bounce is calmer then, and a second would cost more than it brings
        return arrays

    def _net(
        self, placed: Placed, shape: _Shape, day: Daylight, arrays: SceneArrays, settings: NDArray[np.float64],
        camera: NDArray[np.float64], quality: Quality, seed: int,
    ) -> dict[str, object] | None:  # fmt: skip
        """The net of light where it is asked for and seen."""
        wanted, casters = placed.description.stage, shape.geometry.casters
        asked = wanted.light_net.on and len(casters) > 0 and quality.net_fineness > 0
        if not (asked and sees(arrays, camera, wanted.light_net)):
            return None
        occasion = placed.occasion
        key = (
            shape.key,
            digest(
                wanted.surfaces, wanted.light_net, placed.description.site, occasion.when, occasion.sun, occasion.sky, occasion.air
            ),
            quality.net_fineness, seed,
        )  # fmt: skip

        def make() -> dict[str, object]:
            clouded = arrays._replace(sun=_under_clouds(arrays.sun, day.sky.sun_share))
            return net_arrays(
                clouded, settings, wanted.light_net, casters, quality.net_fineness, seed, os.cpu_count() or 1
            )

        return self._nets.get(key, make)


def _triangles(stage: StageGeometry) -> float:
    return float(len(stage.records.stage))


def _under_clouds(sun: NDArray[np.float64], share: float) -> NDArray[np.float64]:
    """The sun's record with the share of its light that reaches the site."""
    dimmed = sun.copy()
    dimmed[4:7] *= share
    return dimmed
