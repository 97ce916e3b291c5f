"""Profiles against other readers of the same files, quadrature, and files that are broken in known ways."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import photompy
import pyldt
import pytest
from scipy.integrate import quad
from scipy.special import roots_legendre

from valleylight.core import photometry
from valleylight.core.photometry import Photometry, PhotometryError, read, write_eulumdat, write_lm63
from valleylight.demo.profiles import CATALOGUE
from valleylight.demo.profiles import photometry as demo_photometry

GAMMA = np.arange(0, 180.1, 5.0)


def ies(
    horizontal: list[float],
    values: np.ndarray,
    vertical=GAMMA,
    head="IESNA:LM-63-2002",
    tilt="TILT=NONE",
    multiplier=1.0,
) -> str:
    words = [f"{v:.4f}" for v in values.ravel()]
    lines = [head, "[TEST] none", "[LUMINAIRE] Trial", tilt] if head else ["Trial", tilt]
    lines += [f"1 1000 {multiplier:g} {len(vertical)} {len(horizontal)} 1 2 0.1 0.2 0", "1.0 1.0 20"]
    lines += [" ".join(f"{v:g}" for v in vertical), " ".join(f"{v:g}" for v in horizontal)]
    lines += [" ".join(words[k : k + 9]) for k in range(0, len(words), 9)]
    return "\n".join(lines) + "\n"


def field(c_deg, g_deg):
    """A smooth distribution with the symmetry of a quadrant."""
    c, g = np.radians(c_deg), np.radians(g_deg)
    return 400 * np.cos(g / 2) ** 4 * (1 + 0.4 * np.cos(2 * c) * np.sin(g) ** 2) + 5


SYMMETRIES = {
    "rotational": ([0.0], lambda c, g: 400 * np.cos(np.radians(g) / 2) ** 4),
    "quadrant": (list(np.arange(0, 90.1, 15.0)), field),
    "bilateral": (
        list(np.arange(0, 180.1, 15.0)),
        lambda c, g: field(c, g) * (1 + 0.3 * np.cos(np.radians(c)) * np.sin(np.radians(g))),
    ),
    "bilateral about C90": (
        list(np.arange(90, 270.1, 15.0)),
        lambda c, g: field(c, g) * (1 + 0.3 * np.sin(np.radians(c)) * np.sin(np.radians(g))),
    ),
    "none": (
        list(np.arange(0, 360.1, 15.0)),
        lambda c, g: field(c, g) * (1 + 0.2 * np.sin(np.radians(c) + 0.7) * np.sin(np.radians(g))),
    ),
}


@pytest.mark.parametrize("name", SYMMETRIES)
def test_every_symmetry_agrees_with_its_formula(name):
    horizontal, shape = SYMMETRIES[name]
    c, g = np.meshgrid(horizontal, GAMMA, indexing="ij")
    profile = read(ies(horizontal, shape(c, g)).encode())
    at_c, at_g = np.meshgrid(np.arange(0, 360, 15.0), GAMMA, indexing="ij")
    assert profile.intensity(at_c, at_g) == pytest.approx(shape(at_c, at_g), rel=1e-5, abs=1e-3)


@pytest.mark.parametrize("name", [n for n in SYMMETRIES if n != "bilateral about C90"])
def test_ies_agrees_with_photompy(name, tmp_path):
    """photompy 0.3.1 reads the same file; it knows no 90 to 270 symmetry."""
    horizontal, shape = SYMMETRIES[name]
    c, g = np.meshgrid(horizontal, GAMMA, indexing="ij")
    path = tmp_path / "trial.ies"
    path.write_text(ies(horizontal, shape(c, g), multiplier=1.25))
    ours, theirs = read(path), photompy.IESFile.read(path).photometry
    for gamma in (0.0, 20.0, 47.5, 85.0):
        for plane in (0.0, 30.0, 75.0, 90.0):
            assert ours.intensity(plane, gamma) == pytest.approx(float(theirs.get_intensity(gamma, plane)), rel=2e-3)
    assert ours.peak_cd == pytest.approx(theirs.max(), rel=1e-6)


def test_rotational_angles_agree_with_photompy(tmp_path):
    lamp = next(lu for lu in CATALOGUE if lu.key == "downlight-medium")
    path = tmp_path / "spot.ies"
    path.write_text(write_lm63(demo_photometry(lamp)))
    ours, theirs = read(path), photompy.IESFile.read(path).photometry
    assert ours.beam_angle_deg == pytest.approx(
        theirs.beam_angle.angle if hasattr(theirs.beam_angle, "angle") else theirs.beam_angle, rel=0.01
    )


@pytest.mark.parametrize("name", SYMMETRIES)
def test_flux_agrees_with_scipy_quadrature(name):
    """Luminous flux by quadrature of the interpolated distribution, cell by cell (scipy.integrate, scipy.special)."""
    horizontal, shape = SYMMETRIES[name]
    c, g = np.meshgrid(horizontal, GAMMA, indexing="ij")
    profile = read(ies(horizontal, shape(c, g)).encode())
    if profile.is_rotational:
        total = sum(
            quad(lambda g: 2 * np.pi * float(profile.intensity(0, g)) * np.sin(np.radians(g)), a, b)[0]
            for a, b in pairwise(GAMMA)
        ) * np.radians(1)
    else:
        total = sum(
            _cell_flux(profile, c0, c1, a, b) for c0, c1 in pairwise(profile.horizontal_deg) for a, b in pairwise(GAMMA)
        )
    assert profile.lumens == pytest.approx(total, rel=5e-4)


def _cell_flux(profile: Photometry, c0: float, c1: float, a: float, b: float) -> float:
    x, w = roots_legendre(4)
    c, g = (c0 + c1) / 2 + (c1 - c0) / 2 * x, (a + b) / 2 + (b - a) / 2 * x
    values = profile.intensity(c[:, None], g[None]) * np.sin(np.radians(g))[None]
    return float((w[:, None] * w[None] * values).sum() * np.radians(c1 - c0) * np.radians(b - a) / 4)


def test_lambertian_and_isotropic_flux_in_closed_form():
    """Lambert: flux = pi I0; isotropic: 4 pi I (CIE 84)."""
    gamma = np.arange(0, 90.01, 0.5)
    lambert = Photometry(np.zeros(1), gamma, 100 * np.cos(np.radians(gamma))[None])
    assert lambert.lumens == pytest.approx(np.pi * 100, rel=1e-4)
    assert lambert.beam_angle_deg == pytest.approx(120, abs=0.1)
    assert lambert.field_angle_deg == pytest.approx(2 * np.degrees(np.arccos(0.1)), abs=0.1)
    assert Photometry(np.zeros(1), np.array([0.0, 180.0]), np.full((1, 2), 10.0)).lumens == pytest.approx(40 * np.pi)


EDITIONS = {
    "": "LM-63-1986",
    "IESNA91": "LM-63-1991",
    "IESNA:LM-63-1995": "LM-63-1995",
    "IESNA:LM-63-2002": "LM-63-2002",
    "IES:LM-63-2019": "LM-63-2019",
}


@pytest.mark.parametrize(("head", "edition"), EDITIONS.items())
def test_editions(head, edition):
    profile = read(ies([0.0], 100 * np.cos(np.radians(GAMMA) / 2)[None], head=head).encode())
    assert profile.source_format == edition
    assert profile.intensity(123, 0) == pytest.approx(100, rel=1e-4)


def test_tilt_included_and_free_layout():
    tilt = "TILT=INCLUDE\n1\n3\n0 45 90\n1.0 0.95 0.9"
    text = ies([0.0], np.full((1, len(GAMMA)), 50.0), tilt=tilt).replace("50.0000 50.0000", "50,\n\n50.0000", 1)
    profile = read(text.encode("latin-1"))
    assert profile.tilt_factors == (1.0, 0.95, 0.9)
    assert profile.intensity(0, 90) == pytest.approx(50)


@pytest.mark.parametrize("luminaire", CATALOGUE, ids=lambda lu: lu.key)
def test_round_trips_keep_flux(luminaire):
    """Conversion between the formats keeps flux within 0.1 percent."""
    made = demo_photometry(luminaire)
    for text in (write_lm63(made), write_eulumdat(made)):
        assert read(text.encode()).lumens == pytest.approx(made.lumens, rel=1e-3)
    assert made.lumens == pytest.approx(luminaire.lumens, rel=1e-3)


@pytest.mark.parametrize("luminaire", CATALOGUE, ids=lambda lu: lu.key)
def test_eulumdat_agrees_with_another_reader(luminaire, tmp_path):
    """eulumdat-py 1.0 reads the same file: planes, angles and intensities per 1000 lm."""
    made = demo_photometry(luminaire)
    path = tmp_path / "profile.ldt"
    text = write_eulumdat(made)
    path.write_text(text, newline="")
    ours, theirs = read(path), pyldt.LdtReader.read(str(path))
    c, g = np.meshgrid(theirs.header.c_angles, theirs.header.g_angles, indexing="ij")
    flux = theirs.header.lamp_flux[0] if hasattr(theirs.header, "lamp_flux") else made.lumens
    table = np.array(theirs.intensities, float)[: len(theirs.header.c_angles)]
    assert ours.intensity(c[: len(table)], g[: len(table)]) == pytest.approx(table * flux / 1000, rel=1e-3, abs=0.02)


@pytest.mark.parametrize("name", SYMMETRIES)
def test_written_symmetries_agree_with_another_reader(name, tmp_path):
    """eulumdat-py 1.0 on a file of every symmetry that we write; ours keep flux in both formats within 0.1 percent."""
    angles, law = SYMMETRIES[name]
    c, g = np.meshgrid(angles, GAMMA, indexing="ij")
    made = read(ies(angles, law(c, g)).encode())
    text = write_eulumdat(made)
    indicator = {"rotational": 1, "quadrant": 4, "bilateral": 2, "bilateral about C90": 3, "none": 0}[name]
    assert int(text.splitlines()[2]) == indicator
    path = tmp_path / "written.ldt"
    path.write_text(text, newline="")
    theirs = pyldt.LdtReader.read(str(path))
    planes = np.array(theirs.header.c_angles, float)
    table = np.array(theirs.intensities, float)[: len(planes)] * made.lumens / 1000
    cc, gg = np.meshgrid(planes, theirs.header.g_angles, indexing="ij")
    assert table == pytest.approx(made.intensity(cc, gg)[: len(table)], rel=1e-3, abs=0.02)
    for text in (write_eulumdat(made), write_lm63(made)):
        assert read(text.encode()).lumens == pytest.approx(made.lumens, rel=1e-3)


@pytest.mark.parametrize(("symmetry", "count"), [(0, 12), (1, 1), (2, 7), (3, 7), (4, 4)])
def test_eulumdat_symmetries(symmetry, count):
    planes = np.arange(0, 360, 30.0)
    gamma = np.arange(0, 90.1, 10.0)
    kept = {0: planes, 1: planes[:1], 2: planes[:7], 3: planes[[9, 10, 11, 0, 1, 2, 3]], 4: planes[:4]}[symmetry]
    c, g = np.meshgrid(np.radians(kept), np.radians(gamma), indexing="ij")
    lobes = {0: np.sin(c + 0.5), 1: 0 * c, 2: np.cos(c), 3: np.sin(c), 4: np.cos(2 * c)}[symmetry]
    values = 200 * np.cos(g) * (1 + 0.3 * lobes * np.sin(g))
    assert len(kept) == count
    head = [
        "Maker",
        1,
        symmetry,
        12,
        30,
        len(gamma),
        10,
        "",
        "Trial",
        "",
        "",
        "",
        100,
        0,
        50,
        80,
        0,
        0,
        0,
        0,
        0,
        100,
        80,
        1,
        0,
        1,
    ]
    lamp = [1, "LED", 2000, "3000", "80", 20, *[0] * 10]
    text = "\r\n".join(str(v) for v in [*head, *lamp, *planes, *gamma, *np.round(values, 5).ravel()])
    profile = read(text.encode())
    at_c, at_g = np.meshgrid(planes, gamma, indexing="ij")
    rc, rg = np.radians(at_c), np.radians(at_g)
    whole = {0: np.sin(rc + 0.5), 1: 0 * rc, 2: np.cos(rc), 3: np.sin(rc), 4: np.cos(2 * rc)}[symmetry]
    assert profile.intensity(at_c, at_g) == pytest.approx(
        2 * 200 * np.cos(rg) * (1 + 0.3 * whole * np.sin(rg)), abs=1e-3
    )


GOOD = ies([0.0], np.full((1, len(GAMMA)), 50.0))
BROKEN = {
    "a word among the numbers": (GOOD.replace("50.0000 50.0000", "50.0000 fifty", 1), "line 9", "candela value 2"),
    "cut off": (GOOD[: len(GOOD) // 2 * 1], "line", "ends where"),
    "no tilt line": ("IESNA:LM-63-2002\nnothing more\n", "line", "TILT="),
    "falling angles": (GOOD.replace("0 5 10", "0 15 10", 1), "line 7", "rise"),
    "type B": (GOOD.replace("1 2 0.1", "2 2 0.1", 1), "line 7", "type B"),
    "half a lamp": (GOOD.replace("1 1000 1", "0.5 1000 1", 1), "line 5", "whole number"),
    "all dark": (ies([0.0], np.zeros((1, len(GAMMA)))), "line", "zero"),
}


@pytest.mark.parametrize("name", BROKEN)
def test_a_broken_file_names_line_and_remedy(name):
    text, where, what = BROKEN[name]
    with pytest.raises(PhotometryError) as caught:
        read(text.encode(), "lamp.ies")
    assert "lamp.ies" in caught.value.where
    assert where in caught.value.where
    assert what in str(caught.value)
    assert caught.value.remedy


@pytest.mark.parametrize("data", [b"", b"\x89PNG\r\n\x1a\n\0\0\0", b"hello\nworld\n"])
def test_not_a_profile(data):
    with pytest.raises(PhotometryError):
        photometry.read(data)


def test_a_doubtful_file_loads_with_a_warning():
    profile = read(ies([0.0], np.full((1, len(GAMMA)), 500.0)).encode())  # 6283 lm from a lamp of 1000 lm
    assert "1000 lm" in profile.warnings[0]
