"""Discomfort glare of a regular array of one fixture: the UGR table of CIE 117.

UGR = 8 log10(0.25 / Lb * sum L^2 w / p^2), with Lb the background luminance, L the luminance of each fixture towards the
eye, w its solid angle and p Guth's position index. Sources: CIE 117-1995 and CIE 190-2010 (room sizes, reflectances,
spacing of a quarter of H; from memory); position index in closed form by R. E. Levin, J. IES 4 (1975), as in the IES
Lighting Handbook (from memory).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.photometry.model import Photometry

Array = NDArray[np.float64]
#: Room width across and length along the line of sight, in heights H of the fixtures above the eye.
ROOMS = (
    (2, 2), (2, 3), (2, 4), (2, 6), (2, 8), (2, 12), (4, 2), (4, 3), (4, 4), (4, 6), (4, 8), (4, 12),
    (8, 4), (8, 6), (8, 8), (8, 12), (12, 4), (12, 6), (12, 8),
)  # fmt: skip
#: Reflectances of ceiling, walls and floor.
REFLECTANCES = ((0.7, 0.5, 0.2), (0.7, 0.3, 0.2), (0.5, 0.5, 0.2), (0.5, 0.3, 0.2), (0.3, 0.3, 0.2))
H_M, SPACING = 2.0, 0.25
#: Smallest and largest luminous area in m2, and greatest share of upward light, for which the standard gives a figure.
LEAST_AREA_M2, MOST_AREA_M2, MOST_UPWARD = 0.005, 1.5, 0.65


@dataclass(frozen=True)
class GlareTable:
    """UGR by room (19) and reflectances (5), seen crosswise (along C0) and endwise (along C90)."""

    crosswise: Array
    endwise: Array


def position_index(alpha_deg: Array, beta_deg: Array) -> Array:
    """Guth's position index: `alpha_deg` from the vertical of the plane through source and line of sight, `beta_deg`
    between the line of sight and the source."""
    a, b = alpha_deg, beta_deg
    return np.exp(
        (35.2 - 0.31889 * a - 1.22 * np.exp(-2 * a / 9)) * 1e-3 * b + (21 + 0.26667 * a - 0.002963 * a**2) * 1e-5 * b**2
    )


def ugr(background_cd_m2: float, luminance_cd_m2: Array, solid_angle_sr: Array, index: Array) -> float:
    """Unified glare rating of sources (N,) before a background."""
    total = float((luminance_cd_m2**2 * solid_angle_sr / index**2).sum())
    return float(8 * np.log10(0.25 / background_cd_m2 * total)) if total > 0 else 0.0


def why_no_table(profile: Photometry) -> str | None:
    """Why the standard gives no table for a profile, or None where it does."""
    from valleylight.core.photometry.figures import luminous_area_m2, zone_flux_lm

    area = luminous_area_m2(profile)
    if area < LEAST_AREA_M2:
        return f"the luminous area is under {LEAST_AREA_M2} m2"
    if area > MOST_AREA_M2:
        return f"the luminous area is over {MOST_AREA_M2} m2"
    if zone_flux_lm(profile, 90, 180) > MOST_UPWARD * profile.lumens:
        return "most of the light goes up"
    return None


def glare_table(profile: Photometry) -> GlareTable | None:
    """The UGR table of a fixture at its own flux, None where the standard gives none (see `why_no_table`)."""
    if why_no_table(profile):
        return None
    return GlareTable(_seen(profile, 0.0), _seen(profile, 90.0))


def _seen(profile: Photometry, look_deg: float) -> Array:
    """UGR (19, 5) with the line of sight along a C-plane."""
    table = np.zeros((len(ROOMS), len(REFLECTANCES)))
    for row, (x, y) in enumerate(ROOMS):
        width, length = x * H_M, y * H_M
        step = SPACING * H_M
        right = np.arange(step / 2, width, step) - width / 2
        ahead = np.arange(step / 2, length, step)
        gx, gy = np.meshgrid(right, ahead)
        gx, gy = gx.ravel(), gy.ravel()
        far = np.sqrt(gx**2 + gy**2 + H_M**2)
        gamma = np.degrees(np.arccos(H_M / far))
        # From the fixture to the eye: back along the line of sight and to the other side.
        c = (look_deg + 180.0 - np.degrees(np.arctan2(gx, gy))) % 360.0
        candela = profile.intensity(c, gamma)
        area = _projected_area_m2(profile, c, gamma)
        alpha = np.degrees(np.arctan2(np.abs(gx), H_M))
        beta = np.degrees(np.arccos(gy / far))
        index = position_index(alpha, beta)
        down, shares = _direct_shares(profile, width, length)
        count = len(gx)
        for column, reflectance in enumerate(REFLECTANCES):
            wall_lx = count * _indirect_wall_lx(shares * down, profile.lumens - down, width, length, reflectance)
            table[row, column] = ugr(wall_lx / np.pi, candela / area, area / far**2, index)
    return table


def _projected_area_m2(profile: Photometry, c_deg: Array, gamma_deg: Array) -> Array:
    """Luminous area in m2 seen along a direction."""
    o = profile.opening
    cosine, sine = np.abs(np.cos(np.radians(gamma_deg))), np.sin(np.radians(gamma_deg))
    if o.shape == "sphere":
        return np.full(gamma_deg.shape, np.pi / 4 * o.width_m**2)
    if o.shape == "disc":
        base = np.pi / 4 * o.width_m * o.length_m
        return np.maximum(base * cosine + o.width_m * o.height_m * sine, 1e-6)
    sides = o.height_m * sine * (
        o.length_m * np.abs(np.cos(np.radians(c_deg))) + o.width_m * np.abs(np.sin(np.radians(c_deg)))
    )  # fmt: skip
    return np.maximum(o.width_m * o.length_m * cosine + sides, 1e-6)


def _direct_shares(profile: Photometry, width: float, length: float) -> tuple[float, Array]:
    """Downward flux in lm, and its shares on floor and walls from fixtures spread evenly over the room.

    A ray that moves by (dx, dy) on its way down meets the floor from a share (1 - |dx|/X)(1 - |dy|/Y) of all places.
    """
    c, g = np.radians(np.arange(2.5, 360, 5.0)), np.radians(np.arange(0.5, 90, 1.0))
    light = profile.intensity(np.degrees(c)[:, None], np.degrees(g)[None, :]) * np.sin(g)
    reach = H_M * np.tan(g)
    lands = np.clip(1 - np.abs(reach * np.cos(c)[:, None]) / width, 0, 1)
    lands = lands * np.clip(1 - np.abs(reach * np.sin(c)[:, None]) / length, 0, 1)
    total = max(float(light.sum()), 1e-12)
    floor = float((light * lands).sum()) / total
    return total * float(np.radians(5.0) * np.radians(1.0)), np.array([floor, 1 - floor])


def _parallel_rectangles(width: float, length: float, gap: float) -> float:
    """Configuration factor of two equal facing rectangles (handbook closed form, e.g. Howell C-11)."""
    x, y = width / gap, length / gap
    a, b = np.sqrt(1 + x * x), np.sqrt(1 + y * y)
    terms = (
        np.log(a * b / np.sqrt(1 + x * x + y * y)) + x * b * np.arctan(x / b) + y * a * np.arctan(y / a)
        - x * np.arctan(x) - y * np.arctan(y)
    )  # fmt: skip
    return float(2 / (np.pi * x * y) * terms)


def _indirect_wall_lx(
    floor_and_walls_lm: Array, up_lm: float, width: float, length: float, reflectance: tuple[float, float, float]
) -> float:
    """Mean illuminance of the walls by reflected light, for one fixture: radiosity of ceiling, walls and floor."""
    floor = width * length
    walls = 2 * H_M * (width + length)
    across = _parallel_rectangles(width, length, H_M)
    to_wall = 1 - across
    back = floor * to_wall / walls
    # Rows receive from columns: ceiling, walls, floor; flux shares by reciprocity.
    receive = np.array([[0, back, across], [to_wall, 1 - 2 * back, to_wall], [across, back, 0]])
    direct = np.array([up_lm, floor_and_walls_lm[1], floor_and_walls_lm[0]])
    kept = np.diag(reflectance)
    flux = np.linalg.solve(np.eye(3) - receive @ kept, direct)
    return float(flux[1] - direct[1]) / walls
