"""Compile every kernel once, by doing a tiny piece of each kind of work; later runs load them from disk.

On an empty cache two processes share the work: kernels compile one at a time within a process, and each keeps what it has
compiled where the other finds it.
"""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from typing import Any, NamedTuple

import numba
import numpy as np
from numba import types

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.jit import compiled
from valleylight.core.jit.cache import forget_unused
from valleylight.core.jit.held import Held
from valleylight.core.project.air import LightNet
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import (
    Fixture,
    FixtureKind,
    Look,
    Occasion,
    Opening,
    Project,
    Stage,
    View,
)
from valleylight.core.project.sky import CloudLayer, Clouds, Sky
from valleylight.core.project.weather import Rain, Snow, Weather
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Address, Light, Paint, Segment, Vertex
from valleylight.core.trace.bsdf import paint
from valleylight.core.trace.integrator import glass, path, shafts, vertices
from valleylight.core.trace.intersect import rays, vertex
from valleylight.core.trace.nextevent import catcher, direct, emission, sunlit
from valleylight.core.trace.photonmap import photons
from valleylight.core.trace.photonmap.net import net_arrays
from valleylight.core.trace.render import new_film, trace_tiles
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import SKETCH

_SKY = Sky(clouds=Clouds(layers=(CloudLayer(kind="sheet", cover=0.5),)))
_PLAIN = Sky(model="cie")
_WINDOW = Opening(centre=(0, -1, 1), half_u=(1, 0, 0), half_v=(0, 0, 1), inward=(0, 1, 0))


def compile_kernels() -> Iterator[tuple[int, int, str]]:
    """Yields (number, total, what) before each step."""
    steps: list[tuple[str, Callable[[], object]]] = [("path integrator and sky", _all), ("finishing", _finish)]
    if not compiled.is_cached(path.render_tile) and (os.cpu_count() or 1) > 1:
        steps.insert(0, ("path integrator", _in_two_processes))
    for number, (what, step) in enumerate(steps, 1):
        yield number, len(steps), what
        step()
    forget_unused()


def compile_aside() -> None:
    """What the second process compiles: the air, which it tells the first about by a line, then sky, measuring, photons, finishing."""
    _ahead(_AIR, _scene(_PLAIN))
    print("air", flush=True)
    _measure(_scene(_SKY, _WINDOW))
    _gather(_scene(_PLAIN))
    _weather()
    _compose()
    _finish()


def _in_two_processes() -> None:
    code = "from valleylight.core.warmup import compile_aside; compile_aside()"
    with subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE) as other:
        try:
            scene = _scene(_PLAIN)
            _ahead(_SURFACES, scene)
            assert other.stdout is not None
            other.stdout.readline()  # also returns when the other has failed: then all is compiled here
            _trace(scene)
        except BaseException:
            other.terminate()
            raise


def _tiny_project(sky: Sky, openings: tuple[Opening, ...]) -> LoadedProject:
    text = "IES\nTILT=NONE\n1 -1 1 2 1 1 2 0 0 0\n1 1 1\n0 90\n0\n100 50\n"
    return LoadedProject(
        Project(
            name="warm-up",
            stage=Stage(openings=openings),
            views=(View(key="v", name="v", position=(0, 0, 1), target=(0, 1, 1)),),
            occasions=(Occasion(key="o", name="o", when=datetime(2026, 6, 21, 12), sky=sky),),
            kinds=(FixtureKind(key="k", name="k", profile="0" * 64, body="downlight"),),
            fixtures=(Fixture(key="f", kind="k", position=(0, 2, 2), aim=(0, 2, 0)),),
        ),
        lambda sha256: text.encode(),
    )


def _scene(sky: Sky, *openings: Opening) -> RenderScene:
    project = _tiny_project(sky, openings)
    view, occasion = project.description.views[0], project.description.occasions[0]
    return Compiler().scene(project, view, occasion, 16, 9, 1, SKETCH)


def _trace(scene: RenderScene) -> None:
    project = _tiny_project(_PLAIN, ()).description
    with ThreadPoolExecutor(1) as pool:
        film = new_film(scene, project.views[0], project.occasions[0], 16, 9)
        trace_tiles(scene, film, [(0, 0, 16, 9)], 0, 1, pool)


def _measure(scene: RenderScene) -> None:
    from valleylight.core.measure import direct, pick, sunhours

    direct.on_level(scene, {}, np.array([0.0]), np.array([0.0]), 0.0)
    pick.through_picture(scene, 0.5, 0.5)
    sunhours.open_sky(scene, (0.0, 0.0, 1.0), np.array([[0.0, 0.0, 1.0]]))
    places = np.zeros((1, layout.PLACE_WIDTH), np.float32)
    sunlit.scatter_places(scene.arrays, rays.new_work(scene.settings), np.array([0.0, 1.0]), places, 0)


def _compose() -> None:
    """What cut-outs ask for."""
    from valleylight.core.compose import kernels

    card, texels = np.zeros(kernels.CARD), np.ones((1, 7), np.float32)
    card[kernels.FACES], card[kernels.ROW_M], card[kernels.ROWS] = 1.0, 1.0, 1.0
    levels, tiles = np.array([[0, 1, 1]], np.int64), np.zeros((1, 2), np.int64)
    plane, places = np.ones((2, 2), np.float32), np.ones((2, 2, 3), np.float32)
    out = np.zeros((1, 1, kernels.LAID), np.float32)
    kernels.lay_rows(
        np.ones(layout.CAMERA_WIDTH), 2, 2, card, texels, levels, plane, 0.1, 0, 0, plane, places, places, out, 0, 1
    )
    for near in (False, True):
        kernels.shade_tiles(tiles, places, plane, card, texels, levels, np.ones(3), 0.1, near, 1.0, plane, 0, 1)
    kernels.dim_tiles(
        tiles,
        places,
        places,
        plane,
        np.zeros(3),
        0.2,
        1.7,
        np.zeros((1, 2)),
        np.ones(2),
        0.1,
        0.7,
        plane,
        plane.copy(),
        0,
        1,
    )


def _sequences() -> None:
    """What frames of sequences ask for."""
    from valleylight.core.sequence.push import pushed
    from valleylight.core.sequence.steady import Remembered, steadied

    lens, plane = np.ones(layout.CAMERA_WIDTH), np.ones((2, 2), np.float32)
    picture = np.ones((2, 2, 3), np.float32)
    steadied(picture, plane, plane, lens, Remembered(picture, plane, plane, lens))
    pushed(picture, plane, lens, (0.0, 0.0, 0.1))


def _weather() -> None:
    """What only snow and rain ask for."""
    project = _tiny_project(_PLAIN, ())
    view, occasion = project.description.views[0], project.description.occasions[0]
    storm = Weather(snow=Snow(depth_cm=5, bare=0.1), rain=Rain(wet=1, puddles=0.5, mm_h=5))
    Compiler().scene(project, view, occasion.model_copy(update={"weather": storm}), 16, 9, 1, SKETCH)


def _gather(scene: RenderScene) -> None:
    """What only scenes with water or solid glass ask for."""
    casters = np.array([[-0.5, 1.5, 0.0, 0.5, 2.5, 1.0]])
    net_arrays(
        scene.arrays,
        scene.settings,
        LightNet(on=True, low=(-1, 1, -1), high=(1, 3, 1), photons=1000),
        casters,
        1.0,
        1,
        1,
    )
    glass.medium_around(scene.arrays, rays.new_work(scene.settings, scene.camera))


def _all() -> None:
    from valleylight.core.measure import incident

    scene = _scene(_SKY, _WINDOW)
    _trace(scene)
    _measure(scene)
    _gather(scene)
    _weather()
    _compose()
    _sequences()
    incident.incident(scene, np.zeros((1, 3)), np.array([[0.0, 0.0, 1.0]]), 1)


def _finish() -> None:
    from valleylight.core.finish.look import apply
    from valleylight.core.treatments import KINDS
    from valleylight.core.treatments.cube import Cube
    from valleylight.core.treatments.hue_ranges import HueRanges
    from valleylight.core.treatments.seen import Seen
    from valleylight.core.treatments.table import Table

    picture = np.ones((64, 64, 3), np.float32) * LUMINANCE.astype(np.float32)
    picture[30:34, 30:34] = 50.0
    depth = np.tile(np.linspace(0.5, 50.0, 64, dtype=np.float32), (64, 1))
    table = Table(file="0" * 64)
    seen = Seen(
        passes={"depth": depth, "position": np.zeros((64, 64, 3), np.float32), "normal": np.zeros((64, 64, 3), np.float32)}, sun_at=(0.5, 0.2),
        tables={"0" * 64: Cube(np.zeros((2, 2, 2, 3), np.float32))},
    )  # fmt: skip
    turned = HueRanges(red_turn=5.0)
    lively = tuple(table if kind is Table else turned if kind is HueRanges else kind(on=True) for kind in KINDS)
    apply(picture, Look(treatments=lively), seen=seen)


# Signatures by letter: scene, work, vertex, paint, light, segment (G), address, place (T), shares of corners (D), sunlit place (Q), integer, number, seed of a pixel, truth. One that no longer
# fits what the integrator asks for costs time, nothing else.
_Ahead = tuple[tuple[Any, str], ...]
_AIR: _Ahead = ((shafts.through_air, "SWiiGfA"),)
_SURFACES: _Ahead = (
    (vertex.meet, "SWfffb"),
    (shafts.beams, "SWiGA"),
    (paint.paint_at, "SiffVfffb"),
    (emission.from_beyond, "SWiGfffbb"),
    (emission.given_off, "SWiiiDGVffbf"),
    (photons.gather, "SVPWifff"),
    (direct.ask_lamp, "SWiTVPifffLi"),
    (direct.ask_surface, "SWiTVPffL"),
    (catcher.share_unshaded, "SWVp"),
    (sunlit.ask_sunlit, "SWiVPQL"),
    (sunlit.choose_place, "SVPff"),
    (paint.draw, "SVPfff"),
    (direct.shade_all, "SWiiVP"),
    (direct.answer, "SWii"),
    (glass.at_pane, "SWiiV"),
    (glass.at_solid, "SWiiVb"),
    (vertices.at_surface, "SWiiiiiiVPf"),
)


def _ahead(kernels: _Ahead, scene: RenderScene) -> None:
    """Compile kernels that others call, from their signatures."""
    work = rays.new_work(scene.settings, scene.camera)
    number, whole, pixel = types.float64, types.int64, types.uint32
    letters = {
        "S": Held(numba.typeof(scene.arrays)), "W": Held(numba.typeof(work)), "V": _record(Vertex), "P": _record(Paint),
        "L": _record(Light), "G": _record(Segment), "A": types.NamedTuple((whole, pixel, whole, whole), Address),
        "T": types.UniTuple(number, 3), "Q": types.Tuple((whole, number, number, number)), "i": whole, "f": number, "p": pixel,
        "b": types.boolean, "D": types.UniTuple(number, 2),
    }  # fmt: skip
    for compile_me, signature in kernels:
        compile_me.compile(tuple(letters[letter] for letter in signature))


def _record(kind: type[NamedTuple]) -> types.NamedUniTuple:
    """A record of numbers alone."""
    return types.NamedUniTuple(types.float64, len(kind._fields), kind)
