"""Looks and lookup tables as files: against colour-science, and refused with their line."""

from __future__ import annotations

import colour
import numpy as np
import pytest

from valleylight.core.colour.rgb import srgb_decode, srgb_encode
from valleylight.core.errors import InputError
from valleylight.core.finish.exchange import look_as_cube, look_as_json, look_from_json
from valleylight.core.finish.ready import READY_LOOKS
from valleylight.core.project import Look
from valleylight.core.treatments.contrast import Contrast
from valleylight.core.treatments.cube import Cube, read_cube, write_cube
from valleylight.core.treatments.exposure import Exposure
from valleylight.core.treatments.grain import Grain
from valleylight.core.treatments.run import treated
from valleylight.core.treatments.saturation import Saturation
from valleylight.core.treatments.seen import Seen
from valleylight.core.treatments.sharpen import Sharpen
from valleylight.core.treatments.split_tone import SplitTone
from valleylight.core.treatments.table import Table

RNG = np.random.default_rng(11)
PICTURE = RNG.uniform(0.0, 1.0, (32, 48, 3)).astype(np.float32)


def solid(n: int) -> np.ndarray:
    b, g, r = np.meshgrid(*[np.linspace(0, 1, n)] * 3, indexing="ij")
    return np.stack([r, g, b], axis=-1).astype(np.float32)


@pytest.mark.parametrize(
    "values",
    [
        solid(5) ** 1.3,
        solid(2)[..., ::-1].copy(),
        np.linspace(0, 1, 17)[:, None].repeat(3, 1).astype(np.float32) ** 0.8,
    ],
)
def test_a_lookup_table_is_read_by_another_reader_and_gives_what_that_gives(values, tmp_path):
    """colour-science reads the file; its own interpolation (trilinear, or linear) is the reference."""
    cube = Cube(values, title="Warm evening")
    path = tmp_path / "table.cube"
    path.write_text(write_cube(cube))
    theirs = colour.read_LUT(str(path))
    again = read_cube(path.read_bytes())
    assert again.title == "Warm evening" and again.values == pytest.approx(values, abs=1e-6)
    codes = RNG.uniform(0, 1, (8, 9, 3))
    linear = srgb_decode(codes).astype(np.float32)
    got = treated(linear, (Table(file="a" * 64),), 1.0, Seen(tables={"a" * 64: again}))
    kind = colour.algebra.table_interpolation_trilinear if cube.is_solid else None
    expected = theirs.apply(codes, **({"interpolator": kind} if kind else {}))
    assert srgb_encode(got) == pytest.approx(expected, abs=2e-4)


def test_a_table_written_by_another_is_read(tmp_path):
    table = colour.LUT3D(
        colour.LUT3D.linear_table(4) ** 0.7, "Soft", domain=np.array([[-0.1, -0.1, -0.1], [1.5, 1.5, 1.5]])
    )
    path = tmp_path / "theirs.cube"
    colour.write_LUT(table, str(path))
    cube = read_cube(path.read_bytes())
    assert cube.title == "Soft" and cube.low == pytest.approx((-0.1,) * 3) and cube.high == pytest.approx((1.5,) * 3)
    codes = RNG.uniform(0, 1, (5, 5, 3))
    got = treated(srgb_decode(codes).astype(np.float32), (Table(file="b" * 64),), 1.0, Seen(tables={"b" * 64: cube}))
    expected = table.apply(codes, interpolator=colour.algebra.table_interpolation_trilinear)
    assert srgb_encode(got) == pytest.approx(np.clip(expected, 0, 1), abs=2e-3)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("LUT_3D_SIZE 2\n" + "0 0 0\n" * 7, "7 rows"), ("LUT_3D_SIZE 2\n" + "0 0 0\n" * 9, "more rows"), ("0 0 0\n", "line 1"),
        ("LUT_1D_SIZE 2\n0 0\n1 1 1\n", "line 2"), ("LUT_1D_SIZE 2\n0 0 nan\n1 1 1\n", "line 2"), ("LUT_1D_SIZE 2\n0 0 1e9\n1 1 1", "line 2"),
        ("LUT_3D_SIZE 1\n0 0 0", "2 to 65"), ("LUT_3D_SIZE 100000000\n", "2 to 65"), ("LUT_1D_SIZE -3", "2 to 65536"), ("", "no size"),
        ("LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n", "twice"), ("HELLO 1\n", "HELLO"), ("\x00\x01\x02" * 40, "line 1"),
        ("LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\nDOMAIN_MAX 1 1 1\n0 0 0\n1 1 1", "domain"),
    ],
)  # fmt: skip
def test_what_is_no_lookup_table_is_refused_with_its_line(text, said):
    with pytest.raises(InputError) as refused:
        read_cube(text.encode(), "bad.cube")
    assert said in str(refused.value) and "bad.cube" in str(refused.value)


def test_the_looks_that_ship_are_fifteen_each_of_its_own():
    assert len(READY_LOOKS) == 16 and len({o.key for o in READY_LOOKS}) == len({o.name for o in READY_LOOKS}) == 16
    pictures = [treated(PICTURE * 2, o.treatments, 1.0) for o in READY_LOOKS]
    for k, one in enumerate(pictures):
        assert np.isfinite(one).all() and [t.PLACE for t in READY_LOOKS[k].treatments] == sorted(
            t.PLACE for t in READY_LOOKS[k].treatments
        )
        assert all(np.abs(one - other).mean() > 0.004 for other in pictures[:k])


@pytest.mark.parametrize("look", READY_LOOKS, ids=lambda o: o.key)
def test_a_look_goes_through_its_file_and_back(look):
    assert look_from_json(look_as_json(look).encode()) == look


@pytest.mark.parametrize("data", [b"", b"[]", b"{}", b'{"format": "valleylight-look", "version": 2}', b'{"format": "valleylight-look", "version": 1, "look": {"key": "A B"}}',
    b'{"format": "valleylight-look", "version": 1, "look": {"key": "a", "name": "A", "treatments": [{"kind": "magic"}]}}', b"[" * 100_000, b"\xff\xfe"])  # fmt: skip
def test_what_is_no_look_is_refused(data):
    with pytest.raises(InputError, match=r"bad\.json"):
        look_from_json(data, "bad.json")


def test_a_look_as_a_table_does_after_the_curve_what_the_look_does():
    look = Look(
        treatments=(
            Exposure(stops=1),
            Contrast(amount=0.4),
            Saturation(amount=-0.3),
            SplitTone(),
            Grain(iso=3200),
            Sharpen(),
        )
    )
    cube = look_as_cube(look)
    same = (Contrast(amount=0.4), Saturation(amount=-0.3), SplitTone())
    expected = treated(PICTURE, same, 1.0)
    got = treated(PICTURE, (Table(file="c" * 64),), 1.0, Seen(tables={"c" * 64: cube}))
    assert srgb_encode(got) == pytest.approx(srgb_encode(np.clip(expected, 0, 1)), abs=0.012)
    with pytest.raises(InputError, match="after the tone curve"):
        look_as_cube(Look(treatments=(Exposure(stops=1),)))
