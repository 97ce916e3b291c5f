"""Treatments are found by being there; each is checked, shown by its own form, and does what its equation says."""

from __future__ import annotations

import sys
from itertools import pairwise

import numpy as np
import pytest
from pydantic import TypeAdapter, ValidationError

from valleylight.core import treatments
from valleylight.core.errors import InputError
from valleylight.core.finish.look import apply_linear
from valleylight.core.project import Look
from valleylight.core.treatments import KINDS, AnyTreatment, Spatial, at_first, form_of, name_of_kind
from valleylight.core.treatments.base import Pointwise
from valleylight.core.treatments.drawn import drawn
from valleylight.core.treatments.exposure import Exposure
from valleylight.core.treatments.saturation import BT709, Saturation
from valleylight.core.treatments.tone_curve import ToneCurve

RNG = np.random.default_rng(4)
PICTURE = RNG.uniform(0.0, 3.0, (24, 40, 3)).astype(np.float32)

INVENTED = '''
"""Every value turned about the middle."""

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number


class Negative(Spatial):
    """A negative."""

    TITLE: ClassVar[str] = "Negative"
    PLACE: ClassVar[int] = 55
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["negative"] = "negative"
    share: float = number(1.0, 0, 1, "Share", 0.1)

    def applied(self, picture: Picture) -> Picture:
        return np.float32(self.share) * (1 - picture) + np.float32(1 - self.share) * picture
'''


def test_a_file_put_there_is_a_treatment(tmp_path, monkeypatch):
    """One file is all it takes: the kind, its place among the others, its form."""
    (tmp_path / "negative.py").write_text(INVENTED)
    monkeypatch.setattr(treatments, "__path__", [*treatments.__path__, str(tmp_path)])
    found = treatments._found()
    monkeypatch.delitem(sys.modules, "valleylight.core.treatments.negative")
    names = [name_of_kind(kind) for kind in found]
    assert len(names) == len(KINDS) + 1
    assert names[names.index("negative") - 1 : names.index("negative") + 2] == [
        "contrast",
        "negative",
        "local_contrast",
    ]
    negative = found[names.index("negative")]
    form = {"field": "share", "normal": 1.0, "label": "Share", "step": 0.1, "unit": "", "low": 0, "high": 1}
    assert form_of(negative) == [form]
    dark = negative().applied(np.zeros((2, 2, 3), np.float32))
    assert (dark == 1.0).all()


def test_places_rise_and_a_new_look_holds_each_once():
    assert all(a.PLACE < b.PLACE for a, b in pairwise(KINDS))
    assert at_first() == Look().treatments and [name_of_kind(t) for t in at_first() if not t.on] == ["bloom"]
    assert [name_of_kind(t) for t in Look().treatments] == [
        "bloom", "exposure", "white_balance", "tone_curve", "contrast", "saturation",
    ]  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_says_what_it_is_and_shows_numbers_within_what_it_takes(kind):
    assert kind.TITLE and kind.__doc__ and issubclass(kind, Pointwise | Spatial)
    for number in form_of(kind):
        for value in (number["low"], number["high"], number["normal"]):
            assert getattr(kind(**{number["field"]: value}), number["field"]) == value
        assert number["low"] <= number["normal"] <= number["high"]
        assert 0 < number["step"] <= (number["high"] - number["low"]) / 10


@pytest.mark.parametrize("kind", KINDS)
def test_what_it_holds_goes_through_a_file_and_back(kind):
    read = TypeAdapter(AnyTreatment)
    made = kind(on=not kind.ON_AT_FIRST, **{n["field"]: n["high"] for n in form_of(kind)})
    assert read.validate_json(read.dump_json(made)) == made
    for number in form_of(kind)[:1]:
        with pytest.raises(ValidationError):
            kind(**{number["field"]: float("nan")})
    with pytest.raises(ValidationError):
        kind(nothing_of_the_kind=1)


@pytest.mark.parametrize("kind", KINDS)
def test_off_is_as_if_it_were_not_there(kind):
    strong = kind(on=False, **{n["field"]: n["high"] for n in form_of(kind)})
    plain = apply_linear(PICTURE, Look(treatments=()), 1.0)
    assert np.array_equal(apply_linear(PICTURE, Look(treatments=(strong,)), 1.0), plain)


@pytest.mark.parametrize(("stops", "white"), [(0.0, 1.0), (1.5, 2.0), (-3.0, 40.0)])
def test_exposure_after_the_fact_is_a_factor(stops, white):
    """A stop doubles; the lens's white becomes 1."""
    got = apply_linear(PICTURE, Look(treatments=(Exposure(stops=stops),)), white)
    assert got == pytest.approx(PICTURE * 2**stops / white, rel=1e-5)


@pytest.mark.parametrize("amount", [-1.0, -0.4, 0.0, 0.7])
def test_saturation_keeps_luma_and_moves_colours_along_their_hue(amount):
    """r' = Y + (1 + a) (r - Y), Y by ITU-R BT.709; what would fall below nothing is nothing."""
    luma = (PICTURE @ BT709)[..., None]
    expected = np.maximum(luma + (1 + amount) * (PICTURE - luma), 0)
    assert apply_linear(PICTURE, Look(treatments=(Saturation(amount=amount),)), 1.0) == pytest.approx(
        expected, abs=2e-5
    )


@pytest.mark.parametrize(("shoulder", "toe", "stops"), [(0.6, 0.2, 3.0), (0.0, 0.0, 0.5), (1.0, 1.0, 8.0)])
def test_the_tone_curve_rises_from_black_to_white_and_meets_its_white_point(shoulder, toe, stops):
    grey = np.linspace(0, 2.0**stops, 2001, dtype=np.float32)
    picture = np.repeat(grey[None, :, None], 3, axis=2)
    got = apply_linear(picture, Look(treatments=(ToneCurve(shoulder=shoulder, toe=toe, stops_above=stops),)), 1.0)[
        0, :, 0
    ]
    assert got[0] == 0 and got[-1] == pytest.approx(1.0, abs=1e-5)
    assert (np.diff(got) >= -1e-7).all()
    middle = grey < 1 - 0.85 * shoulder  # below the knee: x^2 (1 + k) / (x + k), straight without a toe
    k = 0.1 * toe
    expected = grey[middle] if k == 0 else grey[middle] ** 2 * (1 + k) / (grey[middle] + k)
    assert got[middle] == pytest.approx(expected, abs=2e-6)


def changed_kind(kind):
    """A treatment halfway to the ends of its form; blades are whole numbers."""
    halfway = {n["field"]: 0.5 * (n["high"] + n["normal"]) for n in form_of(kind)}
    return kind(on=True, **{field: type(kind().__dict__[field])(value) for field, value in halfway.items()})


def test_pointwise_ones_in_one_pass_are_as_one_after_the_other():
    """And a spatial one between them splits the pass, not the order."""
    lively = [changed_kind(kind) for kind in KINDS]
    for order in (lively, lively[1:] + lively[:1], lively[::-1]):
        together = apply_linear(PICTURE, Look(treatments=tuple(order)), 2.0)
        one_by_one = PICTURE / np.float32(2.0)
        for treatment in order:
            one_by_one = apply_linear(one_by_one, Look(treatments=(treatment,)), 1.0)
        assert together == pytest.approx(one_by_one, abs=1e-5)


@pytest.mark.parametrize(
    "tone",
    [ToneCurve(), ToneCurve(shoulder=0, toe=0), ToneCurve(shoulder=1, toe=1, stops_above=8), ToneCurve(on=False)],
)
def test_the_curve_that_is_drawn_is_the_one_that_is_laid_on_pictures(tone):
    """In closed form: y = x up to the knee, y^2 (1 + k) / (y + k) for the toe, 1 from the white point on."""
    shown = drawn(tone)
    stops, values = np.array(shown.points).T
    assert (stops[0], stops[-1]) == (-8, 8) and (np.diff(values) >= 0).all()
    k, knee = 0.1 * tone.toe, 1 - 0.85 * tone.shoulder
    straight = 2.0**stops <= knee
    x = 2.0 ** stops[straight]
    assert values[straight] == pytest.approx(x * x * (1 + k) / (x + k), abs=1e-5)
    assert values[stops >= tone.stops_above] == pytest.approx(1, abs=1e-5)
    places = {h.field: (h.stops, h.value) for h in shown.handles}
    assert places["stops_above"] == pytest.approx((tone.stops_above, 1), abs=1e-5)
    for place, value in places.values():
        assert value == pytest.approx(np.interp(place, stops, values), abs=0.01)


@pytest.mark.parametrize("field", ["toe", "shoulder", "stops_above"])
@pytest.mark.parametrize("wanted", [0.5, 0.62, 0.8, 1.0])
def test_a_handle_is_bent_to_where_it_is_drawn(field, wanted):
    """Taking a handle of one curve to where that of another lies gives the other's value."""
    other = ToneCurve(**{field: wanted})
    handle = next(h for h in drawn(other).handles if h.field == field)
    bent = ToneCurve(toe=0.1, shoulder=0.3, stops_above=5).bent(field, handle.stops, handle.value)
    assert getattr(bent, field) == pytest.approx(wanted, abs=0.006)


@pytest.mark.parametrize(("field", "stops", "value", "found"), [
    ("stops_above", 99, 0, 8), ("stops_above", -99, 0, 0.5), ("shoulder", 3, 0, 0), ("shoulder", -40, 0, 1), ("toe", 0, 1, 0),
    ("toe", 0, -1, 1), ("toe", 0, 0, 1),
])  # fmt: skip
def test_a_bend_beyond_a_range_stays_within_it(field, stops, value, found):
    assert getattr(ToneCurve().bent(field, stops, value), field) == found


def test_what_is_no_curve_is_not_drawn_or_bent():
    with pytest.raises(InputError, match="no curve"):
        drawn(Exposure())
    with pytest.raises(InputError, match="no handle"):
        ToneCurve().bent("knee", 0, 0)
