"""Land and planting by published methods: they keep the laws that the methods promise, and are the same on every run."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from valleylight.core.errors import InputError
from valleylight.core.nature import erosion, forest, grass, growth, land, masonry, trees
from valleylight.core.nature.foliage import LEAVES, along_twigs, needled
from valleylight.core.nature.wood import bark
from valleylight.core.season.year import KINDS as LEAF_KINDS
from valleylight.core.stage import read_glb


def ramp(rows: int = 40, columns: int = 30, steep: float = 0.2, cell: float = 10.0) -> np.ndarray:
    """A plane that falls towards row 0."""
    return np.repeat(np.arange(rows)[:, None] * steep * cell, columns, 1)


# Erosion


def test_water_runs_straight_down_a_plane_and_gathers_its_area():
    z = ramp()
    water = erosion.drainage(z, 10.0)
    area = water.area_m2.reshape(z.shape)
    inner = area[1:-1, 1:-1]
    # Each inner cell passes on its own area and that of all above it in its column.
    expected = 100.0 * np.arange(inner.shape[0], 0, -1)[:, None]
    assert np.allclose(inner, expected + 0 * inner)
    # What leaves by the lowest row is what has fallen on all that drains there.
    assert area[0, 1:-1].sum() == pytest.approx(100.0 * (inner.size + inner.shape[1]))


def test_area_is_neither_lost_nor_made():
    rng = np.random.default_rng(4)
    z = rng.normal(0, 5, (33, 47)) + ramp(33, 47)
    water = erosion.drainage(z, 7.0)
    ends = water.receiver == np.arange(z.size)
    assert water.area_m2[ends].sum() == pytest.approx(49.0 * z.size)
    assert (z.ravel()[water.receiver] <= z.ravel()).all()
    assert set(np.unique(water.metres / 7.0).round(4)) <= {1.0, 1.4142}


def test_a_river_comes_to_the_slope_of_its_law():
    """Where uplift and carving balance, S = (u / K) A^-m (steady state of the stream power law, Braun and Willett 2013)."""
    rows, cell, u, k = 60, 50.0, 0.4, 0.02
    z = ramp(rows, 3, 1e-4, cell)
    uplift = np.full(z.shape, u)
    floor = np.zeros(z.shape, bool)
    floor[0] = True
    made = erosion.eroded(z, uplift, cell, 4000, k, 89.0, floor)
    # The middle column drains alone: the outer ones are edges, where water leaves the grid.
    river = made[:, 1]
    steep = np.diff(river[:-1]) / cell
    area = cell**2 * np.arange(rows - 2, 0, -1)
    expected = u / k * area**-erosion.AREA_EXPONENT
    assert steep[2:-2] == pytest.approx(expected[2:-2], rel=0.02)


def test_what_is_steeper_than_it_can_lie_slides_and_nothing_is_lost():
    z = np.zeros((41, 41))
    z[20, 20] = 300.0
    most = np.tan(np.radians(35.0))
    out = z
    for _ in range(1500):
        out = erosion.slid(out, 5.0, 35.0)
    assert out.sum() == pytest.approx(z.sum())
    assert max(np.abs(np.diff(out, axis=0)).max(), np.abs(np.diff(out, axis=1)).max()) / 5.0 < 1.15 * most
    # A heap of sand is a cone: as high on every side.
    assert out[20, 14] == pytest.approx(out[14, 20]) and out[20, 14] == pytest.approx(out[26, 20])


def test_flat_ground_does_not_slide():
    z = ramp(20, 20, 0.3)
    assert erosion.slid(z, 10.0, 35.0) == pytest.approx(z)


def test_wetness_and_curvature_tell_hollows_from_ridges():
    x = np.linspace(-1, 1, 41)
    bowl = 30 * (x[None] ** 2 + 0.2 * x[:, None])
    assert (erosion.curvature(bowl, 10.0)[5:-5, 5:-5] > 0).all() and (
        erosion.curvature(-bowl, 10.0)[5:-5, 5:-5] < 0
    ).all()
    # d2/dx2 of 30 (x / 200 m)^2 is 60 / 200^2.
    assert erosion.curvature(bowl, 10.0)[20, 20] == pytest.approx(60 / 200**2, rel=0.01)
    wet = erosion.wetness(bowl, 10.0)
    assert wet[5:-5, 20].mean() > wet[5:-5, 8].mean() + 1


@pytest.mark.parametrize(
    ("height", "uplift", "more"),
    [
        (np.zeros((2, 5)), np.zeros((2, 5)), {}),
        (np.zeros((9, 9)), np.zeros((9, 8)), {}),
        (np.full((9, 9), np.nan), np.zeros((9, 9)), {}),
        (np.zeros((9, 9)), np.full((9, 9), np.inf), {}),
        (np.zeros((9, 9)), np.zeros((9, 9)), {"cell_m": 0.0}),
        (np.zeros((9, 9)), np.zeros((9, 9)), {"repose_deg": 95.0}),
    ],
)
def test_land_that_cannot_be_carved_is_refused(height, uplift, more):
    with pytest.raises(InputError):
        erosion.eroded(height, uplift, **{"cell_m": 5.0, "steps": 1, "strength": 0.1, **more})


# Land


def test_mountains_stand_beside_a_level_floor_and_are_the_same_again():
    made = land.mountains(5, 6000.0, 128, 700.0, 120.0, 1000.0)
    land.mountains.cache_clear()
    again = land.mountains(5, 6000.0, 128, 700.0, 120.0, 1000.0)
    assert np.array_equal(made.height, again.height)
    assert np.percentile(made.height, 99.7) == pytest.approx(700.0, rel=0.02)
    assert np.abs(made.at(np.linspace(-500, 500, 21), -0.1 * np.linspace(-500, 500, 21))).max() < 15.0
    # Ridges and gullies: the land is carved, not swollen.
    inner = made.hollow[10:-10, 10:-10]
    assert (inner > 1e-3).mean() > 0.1 and (inner < -1e-3).mean() > 0.1
    # No slope is left that rock could not hold.
    assert np.percentile(made.steepness, 99.5) < np.tan(np.radians(65.0))


def test_a_window_of_land_is_the_land():
    made = land.mountains(5, 6000.0, 128, 700.0, 120.0, 1000.0)
    window = made.window(1500.0, 300)
    x, y = np.array([-600.0, 10.0, 433.0]), np.array([512.0, -700.0, 80.0])
    assert window.at(x, y) == pytest.approx(made.at(x, y), abs=0.05)
    with pytest.raises(InputError):
        land.Land(np.full((8, 8), np.nan), 0.0, 0.0, 10.0)


def test_cover_follows_slope_and_height():
    made = land.mountains(5, 6000.0, 128, 700.0, 120.0, 1000.0)
    covered = land.cover(made, 250.0)
    for share in (covered.rock, covered.scree, covered.heath, covered.trees):
        assert share.min() >= 0 and share.max() <= 1
    steep, level = made.steepness > np.percentile(made.steepness, 98), made.steepness < 0.2
    assert covered.rock[steep].mean() > 5 * covered.rock[made.steepness < 0.6].mean()
    cliff = land.cover(land.Land(3.0 * made.height, made.x0, made.y0, made.cell_m), 1e6)
    assert cliff.rock[3.0 * made.steepness > 1.3].mean() > 0.9
    assert covered.rock[level & (made.height < 100)].mean() < 0.02
    assert (
        covered.trees[made.height > 400].mean() < 0.02 < covered.trees[(made.height > 40) & (made.height < 180)].mean()
    )


def test_a_mesh_of_land_looks_up_and_keeps_its_heights():
    def height(x, y):
        return 0.1 * x + 0.0 * y

    shape = land.mesh(height, np.geomspace(10, 1000, 40), np.linspace(-np.pi, np.pi, 61))
    assert shape.points[:, 2] == pytest.approx(0.1 * shape.points[:, 0])
    p = shape.points[shape.triangles]
    facing = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    assert (facing[:, 2] > 0).all()
    first, second = land.parted(shape, np.where(land.middles(shape)[:, 0] > 0, 1.0, 0.0))
    assert len(first.triangles) + len(second.triangles) == len(shape.triangles)
    assert land.middles(first)[:, 0].max() <= 0 < land.middles(second)[:, 0].min()


# Growth


def test_branches_fill_the_room_they_are_given():
    rng = np.random.default_rng(1)
    room = rng.uniform([-2, -2, 3], [2, 2, 7], (1500, 3))
    grown = growth.colonise(rng, room, np.array([[0, 0, 0], [0, 0, 1.0], [0, 0, 2.0]]), 0.2, 3.0, 0.4)
    from scipy.spatial import cKDTree

    assert np.percentile(cKDTree(grown.points).query(room)[0], 98) < 0.5
    assert (grown.parent[1:] < np.arange(1, len(grown.parent))).all() and grown.parent[0] == -1
    length = np.linalg.norm(grown.points[3:] - grown.points[grown.parent[3:]], axis=1)
    assert length == pytest.approx(0.2)
    assert grown.children().max() <= growth.MOST_SHOOTS


def test_a_branch_is_as_thick_as_its_shoots_together():
    """The pipe model: r^e of a branch is the sum over its shoots, with one e for the tree."""
    frame = trees.skeleton("lime", 11.0, 1)
    radius = growth.thickness(frame, 0.2, 0.003)
    tips = frame.tips()
    e = np.log(tips[0]) / np.log(radius[0] / radius[tips == 1][0])
    total = np.zeros(len(radius))
    np.add.at(total, frame.parent[1:], radius[1:] ** e)
    branching = frame.children() > 0
    assert total[branching] == pytest.approx(radius[branching] ** e, rel=1e-6)
    assert radius[0] == pytest.approx(0.2, rel=1e-6) and 1.2 <= e <= 3.2


@pytest.mark.parametrize("key", sorted(trees.KINDS))
def test_every_kind_grows_to_its_height_in_three_levels_of_detail(key):
    kind = trees.KINDS[key]
    height = kind.height_m[2]
    counts = []
    for level in (trees.NEAR, trees.MIDDLE, trees.FAR):
        tree = trees.grow(key, height, 2, level)
        every = np.concatenate([tree.wood.points, tree.leaves.points])
        assert np.isfinite(every).all() and np.isfinite(tree.leaves.normals).all()
        assert every[:, 2].max() == pytest.approx(height, rel=0.16)
        assert np.ptp(every[:, 0]) < 2.8 * kind.wide * height + 0.4
        assert np.linalg.norm(tree.leaves.normals, axis=1) == pytest.approx(1.0)
        counts.append(len(tree.wood.triangles) + len(tree.leaves.triangles))
    assert counts[0] > 1.8 * counts[1] > 3.6 * counts[2]
    assert not len(trees.grow(key, height, 2, trees.FAR, leafy=False).leaves.triangles)
    assert kind.leaf in LEAF_KINDS


def test_levels_of_one_tree_shade_alike():
    """The area of leaves stays within a quarter from level to level, so that a tree keeps its weight as it is seen from farther."""

    def area(level: int) -> float:
        s = trees.grow("beech", 13.0, 1, level).leaves
        p = s.points[s.triangles]
        return float(np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1).sum() / 2)

    near, middle, far = (area(level) for level in (0, 1, 2))
    assert middle == pytest.approx(near, rel=0.3) and far == pytest.approx(near, rel=0.4)


def test_broad_leaved_trees_branch_to_the_fourth_order():
    """Stem, boughs, branches and shoots by the skeleton; the finest twigs are set on those."""
    for key in ("lime", "maple", "beech", "apple"):
        height = trees.KINDS[key].height_m[2]
        assert trees.skeleton(key, height, 1).orders().max() >= 3
        near, middle = (trees.grow(key, height, 1, level, leafy=False).wood for level in (trees.NEAR, trees.MIDDLE))
        assert len(near.triangles) > len(middle.triangles) + 5000


def test_wind_bends_a_tree_and_seeds_differ():
    straight, bent = trees.grow("lime", 10.0, 3), trees.grow("lime", 10.0, 3, lean=0.15)
    top = [s.wood.points[s.wood.points[:, 2] > 8][:, 0].mean() for s in (straight, bent)]
    assert 0.5 < top[1] - top[0] < 3.0
    assert not np.array_equal(trees.grow("lime", 10.0, 4).wood.points[:50], straight.wood.points[:50])
    assert np.array_equal(trees.grow("lime", 10.0, 3).leaves.points, straight.leaves.points)


def test_both_halves_of_a_leaf_share_their_longest_edge():
    """By the middle of that edge the tracer tells leaves apart, so that they fall whole."""
    rng = np.random.default_rng(0)
    start = rng.normal(size=(40, 3))
    for leaf in LEAVES.values():
        shape = along_twigs(rng, start, start + [0, 0, 0.4], leaf, 20.0)
        p = shape.points[shape.triangles]
        edges = np.stack([p[:, k] - p[:, (k + 1) % 3] for k in range(3)], 1)
        longest = np.linalg.norm(edges, axis=2).argmax(1)
        middle = np.stack([(p[np.arange(len(p)), longest] + p[np.arange(len(p)), (longest + 1) % 3]) / 2]).reshape(
            -1, 3
        )
        half = len(p) // 2
        assert middle[:half] == pytest.approx(middle[half:])


def test_wood_closes_about_its_branches_and_blades_stand_upright_too():
    frame = trees.skeleton("pear", 6.0, 1)
    shape = bark(frame, growth.thickness(frame, 0.12, 0.003))
    p = shape.points[shape.triangles]
    out = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    told = shape.normals[shape.triangles].mean(1)
    assert ((out * told).sum(1) > 0).mean() > 0.97  # a few fold at sharp bends
    up = needled(np.zeros((1, 3)), np.array([[0, 0, 1.0]]), np.array([0.1]))
    assert np.isfinite(up.normals).all()


# Woods and meadows


def test_trees_stand_where_the_land_lets_them_and_keep_apart():
    rng = np.random.default_rng(3)
    made = forest.stand(rng, lambda x, y: 0.1 * x, lambda x, y: np.where(x > 0, 1.0, 0.0), 6.0, (30.0, 300.0))
    d = np.hypot(made.places[:, 0], made.places[:, 1])
    assert d.min() >= 30 and d.max() < 300 and made.places[:, 0].min() > 0
    assert made.places[:, 2] == pytest.approx(0.1 * made.places[:, 0])
    # One to a square of the spacing: half a disc of 300 m less one of 30 m.
    assert len(made.places) == pytest.approx(np.pi / 2 * (300**2 - 30**2) / 36, rel=0.03)
    matrices = made.matrices(np.arange(3), 12.0)
    assert matrices[1][:3, 3] == pytest.approx(made.places[1])
    assert np.linalg.norm(matrices[1][:3, 0]) == pytest.approx(12.0 * made.size[1])


def test_the_level_of_a_tree_follows_its_size_in_the_picture():
    assert forest.level_for(np.array([20.0, 200.0, 900.0]), 15.0).tolist() == [trees.NEAR, trees.MIDDLE, trees.FAR]
    assert forest.level_for(np.array([200.0]), 15.0, 4000.0)[0] == trees.NEAR


def test_sward_closes_up_and_blades_are_as_high_as_they_are_said_to_be():
    rng = np.random.default_rng(2)
    patch = grass.sward(rng, 1.5, 900, 0.1)
    assert np.ptp(patch.points[:, 0]) > 1.5 and np.abs(patch.points[:, :2]).max() < 1.2
    tops = patch.points.reshape(-1, 5, 3)[:, 4, 2]
    assert 0.05 < np.median(tops) < 0.12
    stems, petals = grass.flowers(rng, 20, 0.2, 1.0)
    assert len(petals.triangles) == 2 * 6 * 20 and stems.points[:, 2].max() == pytest.approx(
        petals.points[:, 2].max(), abs=0.02
    )
    for shape in (patch, petals, grass.fern(rng, 9, 0.5), grass.reeds(rng, 20, 1.2, 0.8), grass.tuft(rng, 30, 0.3)):
        assert np.isfinite(shape.points).all() and np.linalg.norm(shape.normals, axis=1) == pytest.approx(1.0)


# Masonry


def test_stones_fill_a_wall_without_overlap():
    for wide, high in ((4.0, 2.5), (0.6, 5.0), (17.0, 0.4)):
        cells = masonry.stones(np.random.default_rng(5), wide, high)
        area = (cells[:, 2] - cells[:, 0]) * (cells[:, 3] - cells[:, 1])
        assert area.sum() == pytest.approx(wide * high) and area.min() > 0
        assert cells[:, :2].min() >= 0 and cells[:, 2].max() <= wide + 1e-9 and cells[:, 3].max() <= high + 1e-9
        a, b = cells[:, None], cells[None]
        overlap = np.minimum(a[..., 2:], b[..., 2:]) - np.maximum(a[..., :2], b[..., :2])
        both = (overlap > 1e-9).all(-1)
        assert both.sum() == len(cells)  # each with itself alone


def test_upright_joints_do_not_run_through():
    """No joint is laid within 7 cm of one in the bed below (common practice of masons)."""
    cells = masonry.stones(np.random.default_rng(6), 20.0, 3.0)
    beds = {}
    for left, low, right, top in cells:
        beds.setdefault(round(low, 6), []).append((left, right, top))
    lows = sorted(beds)
    ends = [np.array([r for _, r, _ in beds[z] if r < 19.5]) for z in lows]
    met = [np.abs(a[:, None] - b[None]).min(1) for a, b in zip(ends[1:], ends, strict=False) if len(a) and len(b)]
    assert (np.concatenate(met) < 0.02).mean() < 0.12


def test_holes_stay_open_and_keep_their_area():
    rng = np.random.default_rng(7)
    cells = masonry.stones(rng, 5.0, 3.0)
    hole = (1.2, 0.9, 2.6, 2.2)
    cut = masonry.around(cells, [hole], 0.0)
    area = ((cut[:, 2] - cut[:, 0]) * (cut[:, 3] - cut[:, 1])).sum()
    assert area == pytest.approx(15.0 - 1.4 * 1.3)
    inside = np.minimum(cut[:, 2:], hole[2:]) - np.maximum(cut[:, :2], hole[:2])
    assert not (inside > 1e-9).all(1).any()


def test_stones_stand_out_of_their_joints_and_face_outwards():
    rng = np.random.default_rng(8)
    cells = masonry.stones(rng, 3.0, 2.0)
    laid = masonry.laid(rng, cells)
    assert len(laid) == 3 and sum(len(s.triangles) for s in laid) == len(cells) * 2 * (masonry.FACE - 1) ** 2
    for shape in laid:
        p = shape.points[shape.triangles]
        n = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
        assert (n[:, 1] < 0).mean() > 0.8
        assert -0.08 < shape.points[:, 1].min() < -0.01 and shape.points[:, 1].max() == pytest.approx(
            masonry.RUBBLE.recess_m
        )
    turned = masonry.turned_to(laid[0], (1.0, 2.0, 0.0), "+x")
    assert turned.points[:, 0].max() == pytest.approx(1.0 - laid[0].points[:, 1].min())
    with pytest.raises(InputError):
        masonry.stones(rng, 0.0, 2.0)
    assert masonry.laid(rng, np.zeros((0, 4))) == []


def test_the_example_of_the_guide_makes_a_tree(tmp_path, monkeypatch):
    text = (Path(__file__).parents[2] / "docs" / "nature.md").read_text()
    code = text.split("```python\n")[1].split("```")[0]
    monkeypatch.chdir(tmp_path)
    exec(compile(code, "nature.md", "exec"), {})
    stage = read_glb((tmp_path / "beech.glb").read_bytes(), "beech.glb")
    low, high = stage.bounds()
    assert (high - low)[2] == pytest.approx(13.0, rel=0.1)
    assert {m.name for m in stage.materials} >= {"bark", "leaves"}
