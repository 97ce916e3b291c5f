"""Figures of profiles and lamps against closed forms, worked examples and a reference library."""

from __future__ import annotations

import colour
import numpy as np
import pytest
from scipy.integrate import dblquad

from valleylight.core.colour.rgb import RGB_TO_XYZ
from valleylight.core.colour.temperature import kelvin_to_unit_rgb, kelvin_xy, shifted_xy
from valleylight.core.errors import InputError
from valleylight.core.lamps.dimming import dimmed_kelvin, voltage_share
from valleylight.core.lamps.quantities import flux_of
from valleylight.core.lamps.templates import TEMPLATES
from valleylight.core.photometry import LuminousOpening, Photometry, PhotometryError, read, write_lm63
from valleylight.core.photometry.figures import (
    figures,
    flux_code,
    shape,
    spacing_criterion,
    symmetry,
    unlikeness,
    zone_flux_lm,
)
from valleylight.core.photometry.glare import ROOMS, glare_table, position_index, ugr, why_no_table
from valleylight.core.photometry.invent import drawn, plain_spot
from valleylight.core.photometry.planes import flux_about_axis, to_type_c

GAMMA = np.arange(0, 180.1, 1.0)


def turned(law, gamma=GAMMA, opening=LuminousOpening("disc", 0.2, 0.2)) -> Photometry:
    return Photometry(np.zeros(1), gamma, np.asarray(law(np.radians(gamma)), float)[None], opening=opening)


COSINE = turned(lambda g: 1000 / np.pi * np.maximum(np.cos(g), 0))
EVEN = turned(lambda g: np.full_like(g, 100.0))


@pytest.mark.parametrize(("low", "high"), [(0, 30), (30, 60), (0, 90), (80, 90)])
def test_zones_of_a_cosine_source(low, high):
    """Closed form: flux of I0 cos g between two angles is pi I0 (sin2 b - sin2 a)."""
    a, b = np.radians([low, high])
    assert zone_flux_lm(COSINE, low, high) == pytest.approx(1000 * (np.sin(b) ** 2 - np.sin(a) ** 2), rel=3e-4)


def test_flux_code_of_known_distributions():
    """CIE 052: the cones hold pi/2, pi and 3 pi/2 sr. A cosine source gives 1 - cos2 of their angles: 44 75 94 100 100;
    an even one the shares of the solid angle: 25 50 75 50 100."""
    assert flux_code(COSINE) == (44, 75, 94, 100, 100)
    assert flux_code(EVEN) == (25, 50, 75, 50, 100)
    half = Photometry(COSINE.horizontal_deg, GAMMA, COSINE.candela, stated_lumens=2 * COSINE.lumens)
    assert flux_code(half)[4] == 50 and figures(half).efficiency == pytest.approx(0.5)


def test_spacing_criterion_of_a_cosine_source():
    """I cos3 = cos4 g = 1/2 gives tan g = sqrt(2^(1/2) - 1); for four fixtures cos4 g = 1/4 gives g = 45 degrees.
    Handbooks give about 1.3 and 1.4 for such a source (from memory)."""
    along, across, square = spacing_criterion(COSINE)
    assert along == pytest.approx(2 * np.sqrt(np.sqrt(2) - 1), abs=0.01)
    assert across == pytest.approx(along) and square == pytest.approx(np.sqrt(2), abs=0.01)
    assert spacing_criterion(turned(lambda g: np.maximum(-np.cos(g), 0))) == (None, None, None)


def test_shapes_and_symmetries_in_words():
    def of(c, law):
        return Photometry(c, GAMMA, law(np.radians(c)[:, None], np.radians(GAMMA)[None, :]))

    c = np.arange(0, 360.1, 10.0)
    assert shape(plain_spot(10, 22, 0.3, 500)) == "narrow spot"
    assert shape(plain_spot(70, 110, 0.3, 500)) == "wide flood"
    assert shape(COSINE) == "very wide" and shape(EVEN) == "diffuse all round"
    assert shape(turned(lambda g: np.cos(g) ** 8)) == "up and down"
    assert shape(turned(lambda g: np.maximum(-np.cos(g), 0))) == "uplight"
    assert shape(turned(lambda g: np.exp(-(((g - 0.7) / 0.3) ** 2)))) == "batwing"
    washer = of(c, lambda a, g: (1 + 0.9 * np.cos(a)) * np.sin(g) * (g < np.pi / 2))
    assert shape(washer) == "wall washer" and symmetry(washer) == "about C0-C180"
    oval = of(
        c, lambda a, g: np.exp(-((np.sin(g) * np.cos(a) / 0.1) ** 2) - (np.sin(g) * np.sin(a) / 0.4) ** 2) * (g < 1.5)
    )
    assert shape(oval).startswith("oval") and symmetry(oval) == "about both planes"
    assert symmetry(EVEN) == "rotational"
    assert symmetry(of(c, lambda a, g: (1 + 0.9 * np.cos(a - 0.5)) * np.sin(g))) == "none"


def test_likeness():
    assert unlikeness(COSINE, COSINE) == 0
    narrow, near, wide = plain_spot(10, 20, 0.3, 300), plain_spot(12, 24, 0.3, 900), plain_spot(60, 90, 0.3, 300)
    assert unlikeness(narrow, near) < 0.5 * unlikeness(narrow, wide) < 0.5


@pytest.mark.parametrize("kind", [2, 3])
def test_types_a_and_b_keep_direction_and_flux(kind):
    """A smooth beam written about a level and an upright axis, against the law it was made from and scipy quadrature."""
    across, along = np.arange(-90, 91, 2.5), np.arange(-90, 91, 2.5)

    def law(right, up, forward):
        return 500 * np.exp(-(((right - 0.2) / 0.5) ** 2) - ((up - 0.3) / 0.4) ** 2) * np.maximum(forward, 0)

    def axes(h, v):
        if kind == 3:
            return np.cos(v) * np.sin(h), np.sin(v), np.cos(v) * np.cos(h)
        return np.sin(h), np.cos(h) * np.sin(v), np.cos(h) * np.cos(v)

    h, v = np.radians(across)[:, None], np.radians(along)[None, :]
    table = law(*axes(h, v))
    words = " ".join(f"{x:.4f}" for x in table.ravel())
    angles = " ".join(f"{x:g}" for x in along)
    text = (f"IESNA:LM-63-2002\n[TEST] x\nTILT=NONE\n1 -1 1 {len(along)} {len(across)} {kind} 2 0 0 0\n1 1 10\n"
            f"{angles}\n{' '.join(f'{x:g}' for x in across)}\n{words}\n")  # fmt: skip
    made = read(text.encode())
    exact, _ = dblquad(
        lambda y, x: float(law(*axes(x, y)) * np.cos(y if kind == 3 else x)), -np.pi / 2, np.pi / 2, -np.pi / 2, np.pi / 2,
        epsrel=1e-4,
    )  # fmt: skip
    assert flux_about_axis(kind, across, along, table) == pytest.approx(exact, rel=2e-3)
    assert made.lumens == pytest.approx(exact, rel=2e-3)
    for c, gamma in ((0, 20), (90, 15), (270, 30), (225, 10)):
        a, g = np.radians([c, gamma])
        want = law(-np.sin(g) * np.sin(a), np.sin(g) * np.cos(a), np.cos(g))
        assert float(made.intensity(c, gamma)) == pytest.approx(float(want), rel=0.02)


def test_one_sided_types_are_mirrored_and_wrong_angles_refused():
    across, along = np.array([0.0, 10, 30]), np.array([-20.0, 0, 20])
    c, gamma, table = to_type_c(2, across, along, np.outer([3, 2, 0], [1, 2, 0]))
    made = Photometry(c, gamma, table)
    assert float(made.intensity(90, 10)) == pytest.approx(float(made.intensity(270, 10)))
    bad = b"TILT=NONE\n1 -1 1 2 2 2 2 0 0 0\n1 1 10\n-10 10\n5 20\n1 1 1 1\n"
    with pytest.raises(PhotometryError, match=r"line 5.*|horizontal angles from 5"):
        read(bad)


def test_tilt_file_beside(tmp_path):
    text = write_lm63(COSINE).replace("TILT=NONE", "TILT=Lamp.tlt")
    path = tmp_path / "fixture.ies"
    path.write_text(text)
    assert "Lamp.tlt" in read(path).warnings[0]
    (tmp_path / "lamp.TLT").write_text("1\n3\n0 45 90\n1.0 0.9 0.8\n")
    made = read(path)
    assert not made.warnings and made.tilt_factor(67.5) == pytest.approx(0.85) and COSINE.tilt_factor(40) == 1
    (tmp_path / "lamp.TLT").write_text("1\n3\n0 45 x\n1.0 0.9 0.8\n")
    with pytest.raises(PhotometryError, match="tilt angle 3 of 3"):
        read(path)


def test_guth_index_and_ugr_by_hand():
    """On the line of sight the index is 1; handbook table: 10 degrees above it about 1.4 (from memory). UGR of one source of
    5000 cd/m2 and 0.01 sr at index 2 before 50 cd/m2: 8 log10(0.25 / 50 * 5000^2 * 0.01 / 4) = 19.96."""
    assert position_index(np.array(0.0), np.array(0.0)) == pytest.approx(1.0)
    assert position_index(np.array(0.0), np.array(10.0)) == pytest.approx(1.4, abs=0.06)
    assert ugr(50, np.array([5000.0]), np.array([0.01]), np.array([2.0])) == pytest.approx(
        8 * np.log10(0.25 / 50 * 5000**2 * 0.01 / 4)
    )


def test_glare_table_of_a_luminous_panel():
    """A worked case: a cosine panel of 0.6 m and 3600 lm. Ratings published for such panels run from 16 to 17 in a room of
    2H x 2H to about 22 in 8H x 8H at 70/50/20 (from memory); twice the flux adds 8 log10 2."""
    panel = turned(lambda g: 3600 / np.pi * np.maximum(np.cos(g), 0), opening=LuminousOpening("rectangle", 0.6, 0.6))
    table = glare_table(panel)
    first = {room: row[0] for room, row in zip(ROOMS, table.crosswise, strict=True)}
    assert 15.5 < first[(2, 2)] < 17.5 and 21 < first[(8, 8)] < 23.5
    assert np.allclose(table.crosswise, table.endwise, atol=0.01)
    assert (np.diff(table.crosswise[:, [1, 0]], axis=1) < 0).all()  # lighter walls glare less
    twice = Photometry(panel.horizontal_deg, GAMMA, 2 * panel.candela, opening=panel.opening)
    assert np.allclose(glare_table(twice).crosswise - table.crosswise, 8 * np.log10(2), atol=1e-6)
    assert "luminous area" in why_no_table(turned(np.cos, opening=LuminousOpening()))
    assert "up" in why_no_table(turned(lambda g: np.maximum(-np.cos(g), 0)))


@pytest.mark.parametrize(("beam", "field"), [(12, 25), (36, 60), (70, 120)])
def test_a_plain_spot_has_the_angles_asked_for(beam, field):
    made = plain_spot(beam, field, 0.0, 800)
    assert made.lumens == pytest.approx(800)
    assert made.beam_angle_deg == pytest.approx(beam, rel=0.02)
    assert made.field_angle_deg == pytest.approx(field, rel=0.03)
    again = read(write_lm63(made).encode())
    assert again.lumens == pytest.approx(800, rel=1e-4)


def test_drawn_curves_keep_both_planes_and_refuse_nonsense():
    at = [0, 30, 60, 90]
    made = drawn(at, [1, 2, 1, 0], [1, 1, 0, 0], 500, "By hand")
    scale = float(made.intensity(0, 30)) / 2
    assert float(made.intensity(90, 30)) == pytest.approx(scale) and float(made.intensity(90, 70)) == 0
    assert made.lumens == pytest.approx(500)
    for angles, curve in (([0, 0], [1, 1]), ([0, 90], [1]), ([0, 90], [0, 0]), ([0, 90], [-1, 1])):
        with pytest.raises(PhotometryError):
            drawn(angles, curve, None, 100, "x")
    with pytest.raises(PhotometryError, match="no cone"):
        plain_spot(40, 30, 0, 100)


@pytest.mark.parametrize("kelvin", [1900, 2700, 3500, 5500, 6500, 8000])
def test_chromaticities_against_colour_science(kelvin):
    """Planck below 4000 K from CIE illuminant spectra, CIE daylight above (library: colour-science)."""
    if kelvin < 4000:
        spectrum = colour.sd_blackbody(kelvin)
        want = colour.XYZ_to_xy(colour.sd_to_XYZ(spectrum))
    else:
        want = colour.temperature.CCT_to_xy_CIE_D(kelvin)
    assert kelvin_xy(kelvin) == pytest.approx(tuple(want), abs=6e-4)
    xyz = RGB_TO_XYZ @ kelvin_to_unit_rgb(kelvin)
    assert xyz[:2] / xyz.sum() == pytest.approx(tuple(want), abs=6e-4)


@pytest.mark.parametrize("duv", [-0.006, 0.004])
def test_duv_against_colour_science(duv):
    uv = colour.xy_to_UCS_uv(shifted_xy(3000, duv))
    kelvin, distance = colour.temperature.uv_to_CCT_Ohno2013(uv)
    assert kelvin == pytest.approx(3000, rel=0.005) and distance == pytest.approx(duv, abs=3e-4)


def test_dimming_exponents():
    """IES Lighting Handbook (from memory): at 90 percent of the voltage a gas-filled lamp gives about 70 percent of its
    flux and is about 4 percent cooler."""
    assert voltage_share(0.699) == pytest.approx(0.9, abs=0.001)
    assert dimmed_kelvin(2800, 0.699, "incandescent") == pytest.approx(2800 * 0.957, rel=0.002)
    assert dimmed_kelvin(2800, 0.1, "incandescent") == pytest.approx(2107, abs=5)
    assert dimmed_kelvin(2700, 0.001, "warm") == 1800 and dimmed_kelvin(2700, 1.0, "warm") == 2700
    assert dimmed_kelvin(3000, 0.2, "steady") == 3000


def test_one_flux_in_every_quantity():
    """A cosine source: I0 = flux / pi; E = I / d2."""
    assert flux_of(100, "cd", COSINE) == pytest.approx(100 * np.pi, rel=1e-3)
    assert flux_of(25, "lx", COSINE, distance_m=2) == pytest.approx(100 * np.pi, rel=1e-3)
    assert flux_of(9, "W", COSINE, efficacy_lm_w=90) == 810 and flux_of(70, "lm", COSINE) == 70
    with pytest.raises(InputError):
        flux_of(0, "cd", COSINE)


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda t: t.key)
def test_templates_are_legal_profiles(template):
    made = read(write_lm63(template.profile()).encode())
    assert made.lumens == pytest.approx(template.lumens, rel=1e-3) and not made.warnings
