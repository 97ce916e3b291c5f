"""Lights that a model's file offers, as fixtures of plain cones: candela along the axis and the cone's angles are kept.

Source of the falloff: KHR_lights_punctual, "Inner and Outer Cone Angles".
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import srgb_encode
from valleylight.core.photometry.model import LuminousOpening, Photometry
from valleylight.core.stage.offers import LightOffer, Point

#: What a place for a fixture gets, whose light the file does not tell: an opal globe of 60 W or thereabouts (common practice).
PLACE_LUMENS = 700.0
#: How far from the fixture its aim is put.
AIM_M = 2.0
_STEP_DEG = 0.5


@dataclass(frozen=True)
class FixtureOffer:
    """A fixture to be made: its name, profile, place and aim in metres of the stage, and its colour in sRGB."""

    name: str
    profile: Photometry
    position: Point
    aim: Point
    rgb: str | None


def as_fixture(light: LightOffer, matrix: NDArray[np.float64] | None) -> FixtureOffer | None:
    """The fixture of a light, moved by the placement's matrix (4, 4). None for light from afar, which is the sun's or the sky's."""
    if light.kind == "distant":
        return None
    at, ahead = np.array(light.position), np.array(light.ahead)
    if matrix is not None:
        at, ahead = matrix[:3, :3] @ at + matrix[:3, 3], matrix[:3, :3] @ ahead
    ahead = ahead / np.linalg.norm(ahead)
    rgb = None
    if np.ptp(light.rgb) > 0.02:
        encoded = np.round(srgb_encode(np.array(light.rgb) / max(light.rgb)) * 255).astype(int)
        rgb = "#" + "".join(f"{v:02x}" for v in encoded.tolist())
    return FixtureOffer(light.name, cone_profile(light), _point(at), _point(at + AIM_M * ahead), rgb)


def cone_profile(light: LightOffer) -> Photometry:
    """I(g) = I0 clamp((cos g - cos outer) / (cos inner - cos outer))^2 of a spot; a point shines I0 all round."""
    gamma = np.arange(0.0, 180.0 + _STEP_DEG / 2, _STEP_DEG)
    if light.kind == "place":
        candela = np.full(len(gamma), PLACE_LUMENS / (4 * np.pi))
        return Photometry(
            np.zeros(1), gamma, candela[None], "Opal globe", "", None, 0.0, LuminousOpening("sphere", 0.12, 0.12, 0.12)
        )
    peak = light.candela or 0.0
    if light.kind == "point":
        return Photometry(np.zeros(1), gamma, np.full((1, len(gamma)), peak), "Point", "", None, 0.0, LuminousOpening())
    outer = np.cos(np.radians(light.outer_deg))
    inner = np.cos(np.radians(min(light.inner_deg, light.outer_deg - 0.01)))
    share = np.clip((np.cos(np.radians(gamma)) - outer) / (inner - outer), 0, 1) ** 2
    return Photometry(
        np.zeros(1), gamma, peak * share[None], f"Cone {2 * light.outer_deg:.0f}", "", None, 0.0, LuminousOpening()
    )


def _point(values: NDArray[np.float64]) -> Point:
    x, y, z = np.round(values, 4).tolist()
    return x, y, z
