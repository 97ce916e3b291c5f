"""Things placed on the stage: where their vertices, openings and layers come to stand; descriptions of earlier versions."""

from __future__ import annotations

import json
import math
import zipfile

import numpy as np
import pytest
import trimesh
from pydantic import ValidationError

from tests import small
from valleylight.core import project as projects
from valleylight.core.errors import InputError
from valleylight.core.project import Layer, Occasion, Placement, Project
from valleylight.core.project.earlier import upgraded
from valleylight.core.project.keys import LONGEST_KEY, free_key, free_name, key_for
from valleylight.core.stage import assembled, read_glb
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.stages import Stages

ROOM, OTHER = "a" * 64, "b" * 64


def placed(key="one", asset=ROOM, **where) -> Placement:
    return Placement(key=key, name=key, asset=asset, **where)


def corners(stage) -> np.ndarray:
    """Every vertex of a stage in its world, (V, 3)."""
    return np.concatenate([
        stage.meshes[i.mesh].points.astype(float) @ i.matrix[:3, :3].T + i.matrix[:3, 3] for i in stage.instances
    ])  # fmt: skip


@pytest.mark.parametrize(("position", "turn_deg", "scale"), [
    ((0, 0, 0), 0, 1), ((3, -4, 0.5), 0, 1), ((0, 0, 0), 90, 1), ((10, 20, -3), -37.5, 0.0254), ((2.6e6, 1.2e6, 500), 360, 12),
])  # fmt: skip
def test_a_thing_stands_where_its_placement_says(position, turn_deg, scale):
    """Against the matrices of trimesh."""
    room = read_glb(small.room_glb())
    stage = assembled({ROOM: room}, [placed(position=position, turn_deg=turn_deg, scale=scale)])
    matrix = trimesh.transformations.concatenate_matrices(
        trimesh.transformations.translation_matrix(position),
        trimesh.transformations.rotation_matrix(math.radians(turn_deg), (0, 0, 1)),
        trimesh.transformations.scale_matrix(scale),
    )
    wanted = trimesh.transform_points(corners(room), matrix)
    assert corners(stage) == pytest.approx(wanted, abs=1e-9 * max(1, *map(abs, position)))
    opening, before = stage.openings[0], room.openings[0]
    assert opening.centre == pytest.approx(trimesh.transform_points([before.centre], matrix)[0])
    across, up = np.array(opening.half_u), np.array(opening.half_v)
    area = np.linalg.norm(np.cross(across, up))
    assert area == pytest.approx(np.linalg.norm(np.cross(before.half_u, before.half_v)) * scale**2)
    assert np.dot(opening.inward, across) == pytest.approx(0, abs=1e-9)


def test_a_file_placed_twice_is_held_once():
    room = read_glb(small.room_glb())
    stage = assembled({ROOM: room}, [placed(), placed("two", position=(100, 0, 0))])
    assert len(stage.meshes) == len(room.meshes) and len(stage.materials) == len(room.materials)
    assert len(stage.instances) == 2 * len(room.instances) and len(stage.openings) == 2 * len(room.openings)
    low, high = stage.bounds()
    assert high[0] - low[0] == pytest.approx(160)


def test_materials_and_pictures_of_several_files_keep_to_their_own():
    room, other = read_glb(small.room_glb()), read_glb(small.room_glb())
    stage = assembled({ROOM: room, OTHER: other}, [placed(), placed("two", OTHER)])
    names = [m.name for m in room.materials]
    assert [m.name for m in stage.materials] == names * 2
    for k, mesh in enumerate(stage.meshes):
        first = 0 if k < len(room.meshes) else len(names)
        assert (mesh.material - first == stage.meshes[k % len(room.meshes)].material).all()
    for material in stage.materials[len(names) :]:
        twin = stage.materials[names.index(material.name)]
        assert (material.base_texture < 0) == (twin.base_texture < 0)
        assert material.base_texture < 0 or material.base_texture == twin.base_texture + len(room.textures)


def test_layers_go_by_the_projects_names():
    room = read_glb(small.room_glb())
    assert room.layers == ("ground",)
    meadow = Layer(key="meadow", name="Meadow", in_models="ground")
    assert assembled({ROOM: room}, [placed()], [meadow]).layers == ("meadow",)
    assert assembled({ROOM: room}, [placed()], [Layer(key="ground-2", name="ground")]).layers == ("ground",)
    whole = assembled({ROOM: room}, [placed(layer="house")], [meadow, Layer(key="house", name="House")])
    assert {i.layer for i in whole.instances} == {"house"}


def test_an_occasion_hides_layers_by_key_and_by_the_models_own_name():
    loaded = small.project()
    meadow = Layer(key="meadow", name="Meadow", in_models="ground")
    for layers, hidden in (((), ("ground",)), ((meadow,), ("meadow",)), ((meadow,), ("ground",)), ((), ("meadow",))):
        noon = loaded.description.occasions[0].model_copy(update={"hidden_layers": hidden})
        described = loaded.description.model_copy(update={"layers": layers})
        with_it = described.hidden_at(noon)
        stage = Stages().stage(projects.LoadedProject(described, loaded.asset))
        left = [i for i in stage.instances if i.layer not in with_it]
        assert (len(left) < len(stage.instances)) == (hidden != ("meadow",) or bool(layers))


def test_what_people_call_things_reads_nothing_anew():
    loaded, compiler = small.project(), Compiler()
    stage = compiler.stage(loaded)
    described = loaded.description
    renamed = [p.model_copy(update={"name": "Other"}) for p in described.placements]
    same = described.model_copy(update={"placements": tuple(renamed)})
    assert compiler.stage(projects.LoadedProject(same, loaded.asset)) is stage
    moved = tuple(p.model_copy(update={"position": (0.0, 1.0, 0.0)}) for p in renamed)
    there = projects.LoadedProject(described.model_copy(update={"placements": moved}), loaded.asset)
    assert compiler.has_read(there)  # the file itself has been
    assert compiler.stage(there).bounds()[0] == pytest.approx(stage.bounds()[0] + [0, 1, 0])


def test_two_things_of_one_key_are_refused():
    with pytest.raises(ValidationError, match="placements: the key 'one' is used twice"):
        Project(name="x", placements=(placed(), placed()))


@pytest.mark.parametrize("where", [
    {"scale": 0}, {"scale": -1}, {"scale": math.inf}, {"turn_deg": 1e9}, {"position": (0, 0, math.nan)}, {"position": (1e8, 0, 0)},
])  # fmt: skip
def test_impossible_places_are_refused(where):
    with pytest.raises(ValidationError):
        placed(**where)


def test_an_archive_with_models_in_its_stage_is_read(tmp_path):
    """As it was written before things were placed."""
    loaded = small.project()
    raw = loaded.description.model_dump(mode="json")
    model = raw["placements"].pop()
    del raw["placements"], raw["layers"]
    raw["stage"]["models"] = [{"name": n, "asset": model["asset"]} for n in ("room.glb", "Room.GLB", "...", "房子")]
    with zipfile.ZipFile(tmp_path / "old.zip", "w") as archive:
        archive.writestr("project.json", json.dumps(raw))
        for sha in projects.assets_of(loaded.description):
            archive.writestr(f"assets/{sha}", loaded.asset(sha))
    read = projects.load(tmp_path / "old.zip").description
    assert [p.key for p in read.placements] == ["room", "room-2", "model", "model-2"]
    assert {p.asset for p in read.placements} == {model["asset"]} and read.stage == loaded.description.stage
    assert "models" in raw["stage"]  # nothing is altered in place


@pytest.mark.parametrize(
    "text", ["", "[", "[1]", "3", "null", '{"name": "x", "stage": 3}', "[" * 100_000, '{"a": 1e400}']
)
def test_descriptions_that_are_none_name_the_file(tmp_path, text):
    with zipfile.ZipFile(tmp_path / "odd.zip", "w") as archive:
        archive.writestr("project.json", text)
    with pytest.raises(InputError, match=r"project\.json|odd\.zip"):
        projects.load(tmp_path / "odd.zip")


@pytest.mark.parametrize("models", [None, 3, [3], [{}], [{"name": 3}], {"a": 1}])
def test_damaged_lists_of_models_are_left_to_the_check(models):
    raw = upgraded({"name": "x", "stage": {"models": models}})
    assert "models" not in raw["stage"] and isinstance(raw["placements"], list)
    if raw["placements"]:
        with pytest.raises(ValidationError, match="placements"):
            Project.model_validate(raw)


@pytest.mark.parametrize("placements", [3, [3], [{}], {"a": 1}, [{"key": 3}], [None]])
def test_damaged_placements_beside_models_are_left_to_the_check(placements):
    raw = upgraded({"name": "x", "stage": {"models": [{"name": "a", "asset": ROOM}]}, "placements": placements})
    with pytest.raises(ValidationError):
        Project.model_validate(raw)


def test_keys_and_names_are_free():
    assert free_key("noon", {"noon"}) == "noon-2"
    assert free_key("noon-2", {"noon", "noon-2", "noon-3"}) == "noon-4"
    assert len(free_key("k" * 64, {"k" * 64})) <= 64
    assert free_name("Noon 2", {"Noon", "Noon 2"}) == "Noon 3"
    assert len(free_name("n" * 80, set())) <= 80


@pytest.mark.parametrize(("name", "key"), [
    ("Tarn Mill.glb", "tarn-mill"), ("-- a --", "a"), ("../../etc/passwd", "etc-passwd"), ("", "thing"), ("🌲.glb", "thing"),
    ("v1.2 final.glb", "v1-2-final"), ("x" * 300, "x" * (LONGEST_KEY - 16)),
])  # fmt: skip
def test_a_key_is_made_of_a_name(name, key):
    assert key_for(name, (), "thing") == key
    Layer(key=key, name="any")
    assert key_for(name, {key}, "thing") == f"{key}-2"


def test_hidden_layers_are_names_of_others_too():
    noon = small.project().description.occasions[0]
    long = Occasion.model_validate({**noon.model_dump(), "hidden_layers": ["Étage 2 / " + "x" * 150]})
    assert small.project().description.hidden_at(long) == frozenset(long.hidden_layers)


def test_a_layers_key_goes_before_what_models_call_another():
    layers = (Layer(key="snow", name="Snow", in_models="winter"), Layer(key="winter", name="Winter", in_models="cold"))
    described = small.project().description.model_copy(update={"layers": layers})
    for hidden, found in (("winter", "winter"), ("cold", "winter"), ("snow", "snow"), ("other", "other")):
        noon = described.occasions[0].model_copy(update={"hidden_layers": (hidden,)})
        assert described.hidden_at(noon) == {found}


def test_files_of_stages_that_went_are_let_go():
    """An architect's model is large and replaced twice a week."""
    loaded, stages = small.project(), Stages()
    data = loaded.asset(loaded.description.placements[0].asset)
    for number in range(5):
        asset = f"{number:064x}"
        described = loaded.description.model_copy(update={"placements": (placed(asset=asset),)})
        stages.stage(projects.LoadedProject(described, lambda sha: data))
        assert stages.has_read(projects.LoadedProject(described, lambda sha: data))
        assert len(stages._files.values()) <= 2
    first = loaded.description.model_copy(update={"placements": (placed(asset=f"{0:064x}"),)})
    assert not stages.has_read(projects.LoadedProject(first, lambda sha: data))
