"""Leaves through the year: optics of pigments against closed forms and known leaves, days against the bioclimatic law."""

from __future__ import annotations

from datetime import datetime

import numpy as np
import pytest
from pydantic import ValidationError
from scipy.integrate import quad

from tests import small
from valleylight.core.project import View
from valleylight.core.project.description import Occasion, Site
from valleylight.core.project.planting import Planting
from valleylight.core.season import leaf
from valleylight.core.season.leaf import Pigments
from valleylight.core.season.year import KINDS, late_days, leaves
from valleylight.core.stage import Material, Texture
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.leaving import in_leaf, leaves_at, mean_of
from valleylight.core.trace.scene.quality import TRUE
from valleylight.validation import stages


@pytest.mark.parametrize("k", [0.01, 0.3, 2.0])
def test_a_plate_passes_diffuse_light_by_the_law_of_beer_and_lambert(k):
    """(1 - k) exp(-k) + k^2 E1(k) is the mean of exp(-k / cos) over the hemisphere: 2 x integral of exp(-k / c) c dc."""
    by_hand = 2 * quad(lambda c: np.exp(-k / c) * c, 1e-9, 1)[0]
    assert leaf.through_plate(np.array([k]))[0] == pytest.approx(by_hand, rel=1e-6)


def test_a_face_lets_in_what_fresnel_leaves():
    """Diffuse transmittance of a face of index 1.5: 0.908 (R. Dunkle, 1963; F. Stern, 1964)."""
    assert leaf.let_in(1.5) == pytest.approx(0.908, abs=0.002)


@pytest.mark.parametrize("plates", [1.0, 1.5, 2.0, 3.0])
def test_without_pigments_nothing_is_lost(plates):
    reflected, passed = leaf.pile(np.ones(3) * (1 - 1e-12), plates, 1.45)
    assert reflected + passed == pytest.approx(1.0, abs=1e-5)


def test_two_plates_are_what_two_plates_send_to_and_fro():
    t = np.array([0.9, 0.6, 0.2])
    r1, t1 = leaf.pile(t, 1.0 + 1e-12, 1.45)
    r2, t2 = leaf.pile(t, 2.0, 1.45)
    assert t2 == pytest.approx(t1**2 / (1 - r1**2), rel=1e-4)
    assert r2 == pytest.approx(r1 + t1**2 * r1 / (1 - r1**2), rel=1e-4)


def test_living_leaves_are_green_and_autumn_leaves_are_what_their_pigments_make_them():
    """A grown leaf reflects about a tenth in green and a twentieth in red and blue; yellow leaves reflect most of the red and green
    (common practice: leaf spectra by PROSPECT's authors)."""
    green, passed = leaf.optics(Pigments(45, 9))
    assert green[1] == pytest.approx(0.11, abs=0.04)
    assert passed[1] == pytest.approx(0.08, abs=0.03)
    within = green - leaf.face(1.45)  # its gloss is white
    assert within[1] > 2.5 * within[0]
    assert within[1] > 4 * within[2]
    gold, _ = leaf.optics(Pigments(1.2, 7.5))
    assert gold[0] > 0.3
    assert 0.7 < gold[1] / gold[0] < 1.0
    assert gold[2] < 0.35 * gold[0]
    red, _ = leaf.optics(Pigments(2, 6, 13))
    assert red[0] > 2.2 * red[1]


def test_more_of_a_pigment_never_makes_a_leaf_brighter():
    for name in ("chlorophyll", "carotenoid", "anthocyanin", "brown"):
        few, many = (leaf.optics(Pigments(**{"chlorophyll": 5.0, name: v})) for v in (0.5, 0.9))
        assert (many[0] <= few[0] + 1e-9).all()
        assert (many[1] <= few[1] + 1e-9).all()


def test_spring_climbs_as_hopkins_says():
    """Four days a degree of latitude, four days in 122 m (400 feet)."""
    assert late_days(48.0, 400.0) - late_days(47.0, 400.0) == pytest.approx(4.0)
    assert late_days(47.0, 1010.0) - late_days(47.0, 400.0) == pytest.approx(20.0)
    assert late_days(-47.0, 400.0) == 0.0
    day = 125
    assert leaves("birch", day).share > leaves("birch", day, height_m=900.0).share
    assert leaves("birch", 280, height_m=900.0).share < leaves("birch", 280).share


@pytest.mark.parametrize("kind", KINDS)
def test_the_year_of_every_kind_goes_round_without_a_leap(kind):
    days = np.arange(1, 367)
    share = np.array([leaves(kind, d).share for d in days])
    colour = np.array([leaf.optics(leaves(kind, d).pigments)[0] for d in days])
    assert ((share >= 0) & (share <= 1)).all()
    assert np.abs(np.diff(share)).max() < 0.15
    there = share > 0.02
    steps = np.abs(np.diff(colour, axis=0)).max(1)[there[1:] & there[:-1]]
    assert steps.max() < 0.065
    if kind not in ("evergreen", "grass"):
        assert leaves(kind, 15).stage == "bare"
        assert leaves(kind, 190).share == 1.0


def test_south_of_the_line_the_year_is_turned():
    north, south = leaves("maple", 196, 45.0), leaves("maple", 196 - 183, -45.0)
    assert south.share == pytest.approx(north.share)
    assert leaves("maple", 196, -45.0).stage == "bare"


def test_one_that_is_early_is_ahead_in_spring_and_in_autumn():
    assert leaves("lime", 120, early_days=10).share > leaves("lime", 120).share
    assert leaves("lime", 285, early_days=10).share < leaves("lime", 285).share


@pytest.mark.parametrize("latitude", [-89.0, 0.0, 89.0])
@pytest.mark.parametrize("height", [-400.0, 8000.0])
def test_the_far_ends_of_the_earth_have_a_year(latitude, height):
    for kind in KINDS:
        for day in (1, 100, 200, 300, 366):
            assert 0 <= leaves(kind, day, latitude, height).share <= 1


SITE = Site(latitude_deg=47.0, elevation_m=400.0, time_zone="UTC")


def occasion(day: str, **planting) -> Occasion:
    return Occasion(key="o", name="o", when=datetime.fromisoformat(f"2026-{day}T12:00"), planting=Planting(**planting))


def test_a_kind_that_is_held_stays_on_its_day():
    at = occasion("01-15", by_date=True, held={"lime": 190})
    assert leaves_at("lime", at, SITE).share == 1.0
    assert leaves_at("maple", at, SITE).share == 0.0
    for wrong in ({"held": {"lime": 400}}, {"early_days": 99.0}, {"by": True}):
        with pytest.raises(ValidationError):
            Planting(**wrong)


def test_materials_take_colour_and_share_where_that_is_asked_for():
    picture = Texture(np.full((8, 8, 3), 128, np.uint8))
    leafy = Material(name="leaf", leaf="maple", base_texture=0, base=(1, 1, 1))
    stone = Material(name="stone")
    assert in_leaf((leafy, stone), (picture,), occasion("10-12"), SITE) == (leafy, stone)
    turned, same = in_leaf((leafy, stone), (picture,), occasion("10-12", by_date=True), SITE)
    assert same == stone
    # The picture's mean is taken out, so that leaf times picture is what the pigments make.
    seen = np.array(turned.base) * mean_of(picture, None, 0.5)
    both = sum(leaf.optics(leaves_at("maple", occasion("10-12"), SITE).pigments))
    assert seen == pytest.approx(both - leaf.face(leaf.INDEX), rel=1e-6)
    assert 0.3 < turned.translucency < 0.6
    assert turned.leaves < 1


def canopy(share: float):
    """Level cards of a square decimetre all over the view, of which so many are left."""
    cards = [
        small.quad([(x / 10 - 1, y / 10 - 1, 2), (x / 10 - 0.9, y / 10 - 1, 2), (x / 10 - 0.9, y / 10 - 0.9, 2), (x / 10 - 1, y / 10 - 0.9, 2)], 0)
        for x in range(20) for y in range(20)
    ]  # fmt: skip
    black = Material(base=(0, 0, 0), specular=0.0, leaves=share)
    view = View(key="v", name="v", position=(0, 0, 0), target=(0, 0.001, 2), focal_mm=50, keep_verticals=False)
    return stages.project_of(cards, [black], view)


@pytest.mark.parametrize("share", [0.0, 0.3, 0.8, 1.0])
def test_so_many_cards_are_left_whole(share):
    """The lens sees the sky through those that have fallen; both halves of a card go together, so few pixels see an edge of it."""
    project, compiler = canopy(share)
    film = render(project, "v", "o", 64, 64, 16, 1, TRUE, compiler=compiler)
    depth = film.passes["depth"]
    there = np.isfinite(depth) & (depth > 1) & (depth < 10)
    assert there.mean() == pytest.approx(share, abs=0.1)


def test_grass_is_never_gone_and_needles_stay_green():
    for day in (1, 120, 200, 300):
        assert leaves("grass", day).share == 1.0
        assert leaves("evergreen", day).stage == "green"
    assert leaves("grass", 20).stage == "straw"
    assert leaves("grass", 170).stage == "green"


def test_a_sward_sends_back_what_a_pile_without_end_does():
    """Stokes's relations for so many leaves that nothing passes, against a hundred of them laid one on another."""
    for pigments in (Pigments(40, 8), Pigments(8, 6, 5.0, 0.3), Pigments(0.5, 0.5)):
        reflected, passed = leaf.optics(pigments)
        r, t = reflected.copy(), passed.copy()
        for _ in range(400):  # one more leaf under the pile, by the adding method
            r, t = r + t * t * reflected / (1 - r * reflected), t * passed / (1 - r * reflected)
        assert leaf.sward(reflected, passed) == pytest.approx(r, rel=1e-4, abs=1e-6)


def test_a_meadow_is_a_sward_and_a_leaf_is_a_leaf():
    day = occasion("06-21").model_copy(update={"planting": Planting(by_date=True)})
    meadow = Material(name="meadow", leaf="grass", base_texture=0, base=(1, 1, 1))
    blade = Material(name="blade", leaf="grass", translucency=0.4)
    pictures = (Texture(np.full((2, 2, 3), 128, np.uint8)),)
    ground, grown = in_leaf((meadow, blade), pictures, day, SITE)
    assert ground.sward and ground.translucency == 0 and ground.leaves == 1.0
    assert not grown.sward and 0.3 < grown.translucency < 0.8
    # What is green sends back more green than red, and little blue.
    mean = mean_of(pictures[0], None, 0.5)
    seen = np.array(ground.base) * mean
    assert seen[1] > 1.2 * seen[0] > 1.5 * seen[2] and 0.03 < seen[1] < 0.2
