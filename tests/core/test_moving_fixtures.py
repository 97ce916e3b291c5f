"""Fixtures that move and white cards keep what is built: same pictures as a compiler that begins from nothing."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from tests import small
from valleylight.core.project import LoadedProject
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.geometry import Records
from valleylight.core.trace.scene.quality import SKETCH


def film_of(compiler, project):
    d = project.description
    view, occasion = d.view("inside"), d.occasion("night")
    scene = compiler.scene(project, view, occasion, 64, 36, 1, SKETCH)
    film = new_film(scene, view, occasion, 64, 36)
    with ThreadPoolExecutor(2) as pool:
        trace(scene, film, 0, 1, pool)
    return scene, film.balanced()


def moved(project, by):
    d = project.description
    fixtures = tuple(f.model_copy(update={"position": (f.position[0] + by, *f.position[1:])}) for f in d.fixtures)
    return LoadedProject(d.model_copy(update={"fixtures": fixtures}), project.asset)


def test_a_fixture_moved_often_gives_the_picture_of_a_fresh_start():
    """More often than there is room behind the stage's records; the first picture's scene stays as it was."""
    project, compiler = small.project(), Compiler()
    first_scene, first = film_of(compiler, project)
    before = np.array(first_scene.arrays.triangles)
    for step in range(1, Records.TIMES + 4):
        _, picture = film_of(compiler, moved(project, 0.05 * step))
    _, fresh = film_of(Compiler(), moved(project, 0.05 * (Records.TIMES + 3)))
    assert np.array_equal(picture, fresh)
    bodies = first_scene.arrays.geometry_first[-1]
    now = np.asarray(first_scene.arrays.triangles)
    count = int(np.count_nonzero(before[bodies:].any(1)))
    assert count > 0 and np.array_equal(now[: bodies + count], before[: bodies + count])
    _, again = film_of(compiler, project)
    assert np.array_equal(again, first)


def test_records_of_bodies_are_never_written_over():
    stage = np.arange(5 * 32, dtype=np.float32).reshape(5, 32)
    records = Records(stage)
    seen = []
    for number in range(2 * Records.TIMES + 1):
        rows, first = records.with_bodies(np.full((3, 32), number, np.float32))
        seen.append((rows, first, number))
    for rows, first, number in seen:
        assert np.array_equal(rows[:5], stage) and (rows[first : first + 3] == number).all()
        assert rows.ctypes.data % 128 == 0
    with_more, first = records.with_bodies(np.ones((500, 32), np.float32))
    assert len(with_more) >= first + 500


@pytest.mark.parametrize("way", ["first", "after"])
def test_a_white_card_builds_no_ray_structure_and_is_grey(way):
    project, compiler = small.project(), Compiler()
    d = project.description
    card = LoadedProject(d.model_copy(update={"stage": d.stage.model_copy(update={"white_card": True})}), project.asset)
    order = (card, project) if way == "first" else (project, card)
    scenes = [film_of(compiler, p)[0] for p in order]
    assert scenes[0].geometry is scenes[1].geometry
    carded = next(s for s, p in zip(scenes, order, strict=True) if p is card)
    bases = {m.name: m.base for m in carded.materials}
    assert bases["plaster"] == bases["oak"] == (0.5, 0.5, 0.5)
