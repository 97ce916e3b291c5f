"""Distributions of one's own making: plain spots, and curves drawn by hand in one or two planes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from valleylight.core.photometry.errors import PhotometryError
from valleylight.core.photometry.model import LuminousOpening, Photometry

Array = NDArray[np.float64]
_STEP_DEG = 1.0
_POINT = LuminousOpening()


def _angles() -> Array:
    return np.arange(0.0, 180.0 + _STEP_DEG / 2, _STEP_DEG)


def at_flux(profile: Photometry, lumens: float) -> Photometry:
    """The same distribution at another flux in lm."""
    share = lumens / max(profile.lumens, 1e-12)
    return Photometry(
        profile.horizontal_deg, profile.vertical_deg, profile.candela * share, profile.name, profile.source_format, lumens,
        profile.watts, profile.opening, profile.keywords,
    )  # fmt: skip


def plain_spot(
    beam_deg: float, field_deg: float, softness: float, lumens: float, name: str = "", opening: LuminousOpening = _POINT
) -> Photometry:
    """A cone that falls to half at `beam_deg` and to a tenth at `field_deg` (full angles).

    I(g) = 2^-(g / gb)^n with n such that both hold; `softness` 1 lets the tail run out, 0 cuts it at the field angle.
    Raises PhotometryError for angles that make no cone.
    """
    if not 1 <= beam_deg < field_deg <= 178:
        raise PhotometryError(
            f"a beam of {beam_deg:g} and a field of {field_deg:g} degrees make no cone", "beam, field",
            "The field angle must be wider than the beam angle, and both within 1 to 178 degrees.",
        )  # fmt: skip
    gamma = np.unique(np.concatenate([np.arange(0, 30, 0.25), _angles()]))
    half_beam, half_field = beam_deg / 2, field_deg / 2
    power = np.log(np.log(10) / np.log(2)) / np.log(half_field / half_beam)
    light = 2.0 ** -((gamma / half_beam) ** power)
    edge = half_field * (1.0 + 0.02 + 1.5 * softness)
    light = light * np.clip((edge - gamma) / max(edge - half_field, 1e-6), 0, 1) ** 0.5 * (gamma < 90)
    shape = Photometry(np.zeros(1), gamma, light[None], name or f"Spot {beam_deg:g}", "", None, 0.0, opening)
    return at_flux(shape, lumens)


def drawn(
    angles_deg: Sequence[float],
    across: Sequence[float],
    along: Sequence[float] | None,
    lumens: float,
    name: str,
    opening: LuminousOpening = _POINT,
) -> Photometry:
    """A distribution from curves drawn in one plane (rotational) or in C0 and C90 (two planes, both mirrored).

    `across` and `along` are relative intensities at `angles_deg`, rising within 0 to 180. Between the two planes the
    intensity follows an ellipse: I(C) = I0 cos2 C + I90 sin2 C, which keeps both. Raises PhotometryError.
    """
    at = np.asarray(angles_deg, float)
    curves = [np.asarray(across, float), *([np.asarray(along, float)] if along is not None else [])]
    if len(at) < 2 or (np.diff(at) <= 0).any() or at[0] < 0 or at[-1] > 180:
        raise PhotometryError("the angles must rise within 0 to 180 degrees", "angles", "Put them in order.")
    for curve in curves:
        if len(curve) != len(at) or not np.isfinite(curve).all() or (curve < 0).any():
            raise PhotometryError(
                "each curve needs one intensity of 0 or more for each angle", "curves", "Complete the curve."
            )
    if max(float(c.max()) for c in curves) <= 0:
        raise PhotometryError("the curve is dark everywhere", "curves", "Raise a point of it.")
    gamma = _angles()
    first = np.interp(gamma, at, curves[0], right=0.0)
    if len(curves) == 1:
        return at_flux(Photometry(np.zeros(1), gamma, first[None], name, "", None, 0.0, opening), lumens)
    second = np.interp(gamma, at, curves[1], right=0.0)
    c = np.arange(0.0, 361.0, 15.0)
    share = np.sin(np.radians(c))[:, None] ** 2
    table = (1 - share) * first + share * second
    table[:, 0] = table[:, 0].mean()  # one direction, one intensity
    table[:, -1] = table[:, -1].mean()
    return at_flux(Photometry(c, gamma, table, name, "", None, 0.0, opening), lumens)
