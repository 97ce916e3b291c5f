"""Colour against colour-science 0.4.7."""

from __future__ import annotations

import warnings

import numpy as np
import pytest

from valleylight.core.colour import rgb, temperature
from valleylight.core.colour.observer import matching_functions
from valleylight.core.errors import InputError

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour


@pytest.mark.parametrize("kelvin", [1500, 1900, 2700, 3000, 4000])
def test_black_body_chromaticity(kelvin):
    """Planck's law integrated with the CIE 1931 observer (colour-science); Krystek's fit holds to 0.0005 in uv."""
    theirs = colour.temperature.CCT_to_uv_Planck1900(kelvin)
    x, y = temperature.planck_xy(kelvin)
    d = -2 * x + 12 * y + 3
    assert (4 * x / d, 6 * y / d) == pytest.approx(tuple(theirs), abs=6e-4)


@pytest.mark.parametrize("kelvin", [4500, 5500, 6504, 8000, 12000])
def test_daylight_chromaticity(kelvin):
    assert temperature.daylight_xy(kelvin) == pytest.approx(tuple(colour.temperature.CCT_to_xy_CIE_D(kelvin)), abs=1e-4)


@pytest.mark.parametrize("kelvin", [2700, 3500, 5000, 6500, 9000])
def test_colour_temperature_comes_back(kelvin):
    assert temperature.rgb_to_kelvin(temperature.kelvin_to_unit_rgb(kelvin)) == pytest.approx(kelvin, rel=0.015)


def test_unit_rgb_has_luminance_one():
    for kelvin in (1800, 3000, 6500, 20000):
        assert temperature.kelvin_to_unit_rgb(kelvin) @ rgb.LUMINANCE == pytest.approx(1)
    with pytest.raises(InputError, match="1000 to 25000"):
        temperature.kelvin_to_unit_rgb(500)


def test_matrices_and_encoding():
    theirs = colour.RGB_COLOURSPACES["sRGB"]
    assert pytest.approx(theirs.matrix_XYZ_to_RGB, abs=5e-4) == rgb.XYZ_TO_RGB
    values = np.linspace(0, 1, 33)
    assert rgb.srgb_encode(values) == pytest.approx(colour.models.eotf_inverse_sRGB(values), abs=1e-6)
    assert rgb.srgb_decode(rgb.srgb_encode(values)) == pytest.approx(values, abs=1e-6)


def test_matching_functions_follow_the_standard_observer():
    """Wyman 2013 states an error of about 1 percent of the peak."""
    observer = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"]
    nm = np.arange(400, 701, 10)
    assert matching_functions(nm) == pytest.approx(observer[nm.astype(float)], abs=0.035)
