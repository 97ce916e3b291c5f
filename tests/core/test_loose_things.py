"""Things that are moved about are laid over a stage that stands fast: they are met where the same things are that stand fast."""

from __future__ import annotations

import hashlib
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
import pytest

from tests import small
from valleylight.core.measure import pick
from valleylight.core.objects import family_of, made
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Made, Placement
from valleylight.core.project.repeats import Row
from valleylight.core.project.surface import ObjectFlags, Surface
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH

ROOM = small.project()
FILES = {
    hashlib.sha256(d).hexdigest(): d for d in (made(family_of(f), {}) for f in ("armchair", "lime", "backdrop", "vase"))
}
SHA = dict(zip(("armchair", "lime", "backdrop", "vase"), FILES, strict=True))


def with_things(*things: Placement, **stage) -> LoadedProject:
    wanted = ROOM.description
    wanted = wanted.model_copy(update={
        "placements": (*wanted.placements, *things), "stage": wanted.stage.model_copy(update=stage),
    })  # fmt: skip
    return LoadedProject(wanted, lambda sha: FILES.get(sha) or ROOM.asset(sha))


def thing(family: str, at: tuple[float, float, float], name: str = "", **fields) -> Placement:
    return Placement(
        key=name or family, name=name or family, asset=SHA[family], position=at, made=Made(family=family), **fields
    )


def seen(project: LoadedProject, compiler: Compiler) -> list:
    """What a grid of rays through the picture meets."""
    view, occasion = project.description.views[0], project.description.occasions[0]
    scene = compiler.scene(project, view, occasion, 64, 36, 1, SKETCH)
    spots = [(x, y) for x in np.linspace(0.03, 0.97, 24) for y in np.linspace(0.03, 0.97, 14)]
    met = [pick.through_picture(scene, x, y) for x, y in spots]
    return [None if m is None else (m.object, m.material, *np.round(m.point, 3), *np.round(m.normal, 3)) for m in met]


@pytest.mark.parametrize(
    "fields", [{}, {"turn_deg": 50.0}, {"mirrored": True, "scale": 1.3}, {"scale": 0.5, "turn_deg": -120}]
)
@pytest.mark.parametrize("family", ["armchair", "lime", "backdrop"])
def test_loose_and_fast_are_met_alike(family, fields):
    """A row of one stands fast; the same thing alone is loose. Backdrops stand fast either way, for they shine."""
    loose, fast = (
        thing(family, (2.6, 1.5, 0.0), **fields),
        thing(family, (2.6, 1.5, 0.0), repeat=Row(count=1), **fields),
    )
    a, b = seen(with_things(loose), Compiler()), seen(with_things(fast), Compiler())
    assert a == b and (family == "backdrop" or any(m is not None and m[0] == family for m in a))


def test_what_was_moved_is_met_where_a_new_compiler_meets_it():
    compiler = Compiler()
    for x, y, turn in ((1.5, 1.0, 0), (3.2, 1.4, 35), (4.5, 2.5, 200)):
        project = with_things(thing("armchair", (x, y, 0.0), turn_deg=turn), thing("vase", (3.0, 1.6, 0.75)))
        assert seen(project, compiler) == seen(project, Compiler())


def test_things_come_and_go_and_keep_their_surfaces():
    """Pictures and materials of what stands are those of its own however others come before and after."""
    compiler = Compiler()
    vase, chair, tree = (
        thing("vase", (3.0, 1.6, 0.75)),
        thing("armchair", (1.5, 1.0, 0.0)),
        thing("lime", (4.4, 2.6, 0.0), scale=0.2),
    )
    for things in ((vase,), (chair, vase), (tree, chair, vase), (chair, tree), (), (vase, tree)):
        project = with_things(*things)
        assert seen(project, compiler) == seen(project, Compiler())
    hidden = with_things(chair.model_copy(update={"hidden": True}), vase)
    assert seen(hidden, compiler) == seen(with_things(vase), Compiler())


def test_flags_and_surfaces_reach_loose_things():
    unseen = with_things(thing("armchair", (2.6, 1.5, 0.0)), objects={"armchair": ObjectFlags(seen=False)})
    assert not any(m is not None and m[0] == "armchair" for m in seen(unseen, Compiler()))
    names = {m.name for m in Compiler().stage(unseen).materials}
    assert "Wool, moss" in names
    glass = with_things(
        thing("armchair", (2.6, 1.5, 0.0)), surfaces={"Wool, moss": Surface(glass="thin", keep_picture=False)}
    )
    compiler = Compiler()
    met = seen(glass, compiler)  # panes stand fast, for they are known triangle by triangle
    assert met == seen(glass, Compiler())


@pytest.mark.parametrize("family", ["armchair", "lime"])
def test_they_throw_the_shadow_that_fast_ones_throw(family):
    """The light of the room with the thing loose and fast, within the noise of sixteen samples; and less than without it."""

    def mean(*things: Placement) -> float:
        project = with_things(*things)
        view, occasion = project.description.views[0], project.description.occasions[0]
        quality = replace(SKETCH, soften=0.0, clamp_stops=20.0)
        scene = Compiler().scene(project, view, occasion, 48, 27, 3, quality)
        film = new_film(scene, view, occasion, 48, 27)
        with ThreadPoolExecutor(2) as pool:
            trace(scene, film, 0, 16, pool)
        return float(film.balanced().mean())

    loose, fast = (
        mean(thing(family, (2.6, 1.0, 0.0), scale=0.6)),
        mean(thing(family, (2.6, 1.0, 0.0), scale=0.6, repeat=Row(count=1))),
    )
    assert loose == pytest.approx(fast, rel=0.03)
    assert loose < mean()
