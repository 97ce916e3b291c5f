"""Objects of the catalogue: true sizes, sound triangles, the same on every run; lamps give the light they are said to."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.lamps.within import BULB_LUMENS, BULB_M, bulb_profile, place_of_bulb
from valleylight.core.objects import FAMILIES, family_of, made
from valleylight.core.objects.planting import FAMILIES as PLANTS
from valleylight.core.preview.thing import thing_picture
from valleylight.core.project.description import Placement
from valleylight.core.stage import read_glb
from valleylight.core.stage.plausibility import findings

#: Parameters that say how large an object is along an axis, in metres; plants are as wide as they grow.
SAYS = {
    "chair": {"width": 0, "back": 2}, "armchair": {"width": 0}, "sofa": {"length": 0}, "stool": {"height": 2},
    "table": {"length": 0, "width": 1, "height": 2}, "round-table": {"diameter": 0, "height": 2}, "shelves": {"height": 2},
    "cupboard": {"width": 0, "height": 2}, "floor-lamp": {"height": 2}, "table-lamp": {"height": 2}, "pendant": {"drop": 2, "diameter": 0},
    "rug": {"width": 1}, "bench": {"length": 0}, "bollard": {"height": 2}, "car": {"length": 0}, "figure": {"height": 2},
}  # fmt: skip


def corners(family, last: bool) -> dict[str, float]:
    return {p.key: p.most if last else p.least for p in family.parameters}


@pytest.mark.parametrize("family", FAMILIES, ids=lambda f: f.key)
@pytest.mark.parametrize("which", ["first", "least", "most"])
def test_members_of_families_are_sound(family, which):
    values = {} if which == "first" else corners(family, which == "most")
    data = made(family, values)
    stage = read_glb(data, family.key)
    around = family.group == "Surroundings"
    assert stage.notes == () and (len(stage.instances) == 1 or around)
    low, high = stage.bounds()
    told = {p.key: values.get(p.key, p.first) for p in family.parameters}
    for key, axis in SAYS.get(family.key, {}).items():
        assert (high - low)[axis] == pytest.approx(told[key], rel=0.03, abs=0.03), key
    for mesh in stage.meshes:
        assert np.isfinite(mesh.points).all() and np.isfinite(mesh.uv).all()
        assert np.abs(np.linalg.norm(mesh.normals, axis=1) - 1).max() < 0.01
        assert 10 < len(mesh.triangles) < 120_000
    if family.key not in ("pendant", "blind") and not around:
        assert -0.2 < low[2] < 0.06  # it stands on the floor, stones a little in it
    assert [f for f in findings(stage, stage.materials) if f.kind == "placeholder"] == []


@pytest.mark.parametrize(
    "family", [f for f in PLANTS if any(p.key == "season" for p in f.parameters)], ids=lambda f: f.key
)
def test_plants_go_through_the_year_and_differ(family):
    """Bare ones have fewer triangles, another of its kind has another shape, evergreens keep their leaves; each is as high as told."""
    counts = [sum(len(m.triangles) for m in read_glb(made(family, {"season": s})).meshes) for s in (0, 1, 2)]
    if family.group == "Trees and shrubs" and family.key != "box":
        assert counts[2] < counts[1] < counts[0]
    assert made(family, {"seed": 1}) != made(family, {"seed": 2})
    height = next(p for p in family.parameters if p.key == "height")
    for value in (height.least, height.most):
        if family.group == "Trees and shrubs":
            wood = read_glb(made(family, {"height": value, "season": 2})).bounds()
            assert (wood[1] - wood[0])[2] == pytest.approx(value, rel=0.2)


def test_the_same_numbers_make_the_same_bytes():
    family = family_of("shelves")
    first = made(family, {"width": 1.4})
    from valleylight.core import objects

    objects._made.cache_clear()
    assert made(family, {"width": 1.4}) == first != made(family, {"width": 1.5})


@pytest.mark.parametrize("key", ["floor-lamp", "table-lamp", "pendant"])
@pytest.mark.parametrize("which", ["least", "first", "most"])
def test_lamps_hold_a_bulb_within_their_shade(key, which):
    """The bulb hangs free, about the axis, with the shade about it at its height; nothing of the lamp itself shines."""
    family = family_of(key)
    values = {p.key: getattr(p, which) for p in family.parameters}
    stage = read_glb(made(family, values))
    assert not any(m.emits for m in stage.materials)
    x, y, z = family.lamp(family.values(values))
    points = np.concatenate([
        stage.meshes[i.mesh].points[stage.meshes[i.mesh].triangles].mean(1) @ i.matrix[:3, :3].T + i.matrix[:3, 3]
        for i in stage.instances
    ])  # fmt: skip
    assert (x, y) == (0.0, 0.0)
    assert np.linalg.norm(points - [x, y, z], axis=1).min() > BULB_M / 2 - 0.001
    beside = points[np.abs(points[:, 2] - z) < 0.2]
    assert np.hypot(beside[:, 0], beside[:, 1]).max() > 2 * BULB_M / 2
    assert [f.key for f in FAMILIES if f.lamp] == ["floor-lamp", "table-lamp", "pendant"]


def test_a_bulb_gives_its_flux_evenly():
    profile = bulb_profile()
    assert profile.lumens == pytest.approx(BULB_LUMENS, rel=1e-3)
    assert float(profile.intensity(0, 90)) == pytest.approx(BULB_LUMENS / (4 * np.pi))


@pytest.mark.parametrize("more", [{}, {"turn_deg": 90.0}, {"scale": 2.0}, {"up": "y"}])
def test_a_bulb_stands_where_its_lamp_holds_it(more):
    thing = Placement(key="l", name="l", asset="0" * 64, position=(10, 20, 1), **more)
    at, aim = place_of_bulb(thing, (0.5, 0.0, 1.4))
    scale = more.get("scale", 1.0)
    expected = {0.0: (10 + 0.5 * scale, 20, 1 + 1.4 * scale), 90.0: (10, 20.5, 2.4)}[more.get("turn_deg", 0.0)]
    if more.get("up") == "y":
        expected = (10.5, 18.6, 1)
    assert at == pytest.approx(expected) and aim == pytest.approx((at[0], at[1], at[2] - 1))


@pytest.mark.parametrize("values", [{"height": 99.0}, {"height": float("nan")}, {"wings": 2.0}, {"wood": -1.0}])
def test_numbers_out_of_their_limits_are_refused(values):
    with pytest.raises(InputError):
        made(family_of("table"), values)


def test_a_family_that_is_not_there():
    with pytest.raises(NotFoundError):
        family_of("throne")


def test_an_object_is_pictured():
    """It stands out from the floor in the middle of the picture, and the corners show none of it."""
    picture = thing_picture(read_glb(made(family_of("armchair"), {})), 48).astype(float)
    assert picture.shape == (48, 48, 3)
    middle, corner = picture[20:28, 20:28].mean((0, 1)), picture[-6:, :6].mean((0, 1))
    assert corner.mean() - middle.mean() > 30 and 60 < corner.mean() < 250
