"""What a lighting plan asks of a profile: flux by zones, flux code, spacing, symmetry and shape in words.

Sources: zonal flux and the spacing criterion as in the IES Lighting Handbook, 10th edition, chapter on luminaires (from
memory); the flux code as in CIE 052-1982 and EN 13032-2 (from memory).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.photometry.measures import zone_weights
from valleylight.core.photometry.model import Photometry

Array = NDArray[np.float64]
#: Zones of a photometric report, in degrees from the nadir.
ZONES = ((0, 30), (0, 40), (0, 60), (60, 80), (80, 90), (0, 90), (90, 120), (90, 180), (0, 180))
#: Angles whose cones about the nadir hold a quarter, a half, three quarters and the whole of the lower half space.
CODE_DEG = (41.409622, 60.0, 75.522488, 90.0)
#: Fine planes and angles for judging a distribution as a whole.
_C, _G = np.arange(0.0, 360.0, 5.0), np.arange(0.0, 180.5, 1.0)


@dataclass(frozen=True)
class Figures:
    """Figures of a profile: lumens of `ZONES`, shares 0 to 1, angles in degrees, area in m2."""

    zones_lm: tuple[float, ...]
    downward: float
    flux_code: tuple[int, int, int, int, int]
    spacing: tuple[float | None, float | None, float | None]
    symmetry: str
    shape: str
    luminous_area_m2: float
    efficiency: float | None
    efficacy_lm_w: float | None


def figures(profile: Photometry) -> Figures:
    """All figures of a profile."""
    share = profile.lumens / profile.stated_lumens if profile.stated_lumens else None
    return Figures(
        zones_lm=tuple(zone_flux_lm(profile, low, high) for low, high in ZONES),
        downward=zone_flux_lm(profile, 0, 90) / max(profile.lumens, 1e-12),
        flux_code=flux_code(profile),
        spacing=spacing_criterion(profile),
        symmetry=symmetry(profile),
        shape=shape(profile),
        luminous_area_m2=luminous_area_m2(profile),
        efficiency=share,
        efficacy_lm_w=profile.lumens / profile.watts if profile.watts > 0 else None,
    )


def zone_flux_lm(profile: Photometry, low_deg: float, high_deg: float) -> float:
    """Flux in lm between two angles from the nadir, exact for the interpolated distribution."""
    g = profile.vertical_deg
    low, high = max(low_deg, float(g[0])), min(high_deg, float(g[-1]))
    if high <= low:
        return 0.0
    cut = np.unique(np.concatenate([[low], g[(g > low) & (g < high)], [high]]))
    planes = profile.horizontal_deg
    per_plane = profile.intensity(planes[:, None], cut[None, :]) @ zone_weights(cut)
    if profile.is_rotational:
        return float(2 * np.pi * per_plane[0])
    return float(np.trapezoid(per_plane, np.radians(planes)))


def flux_code(profile: Photometry) -> tuple[int, int, int, int, int]:
    """CIE flux code N1 to N5 in percent: the cones of pi/2, pi and 3 pi/2 sr over the lower flux, the lower flux over the
    whole, and the light output ratio (100 where no lamp flux is stated)."""
    cones = [zone_flux_lm(profile, 0, angle) for angle in CODE_DEG]
    lower = max(cones[3], 1e-12)
    ratio = profile.lumens / profile.stated_lumens if profile.stated_lumens else 1.0
    shares = (cones[0] / lower, cones[1] / lower, cones[2] / lower, cones[3] / max(profile.lumens, 1e-12), ratio)
    return tuple(round(100 * s) for s in shares)  # type: ignore[return-value]


def spacing_criterion(profile: Photometry) -> tuple[float | None, float | None, float | None]:
    """Spacing over mounting height along C0-C180, along C90-C270 and on the diagonal of a square, None without light below.

    Two fixtures give half-way between them what one gives right below: I(g) cos3(g) = I(0) / 2, spacing 2 tan g; four
    give it in the middle of their square: I(g) cos3(g) = I(0) / 4, spacing sqrt(2) tan g.
    """
    below = float(profile.intensity(0.0, 0.0))
    if below <= 0:
        return None, None, None

    def last(planes: tuple[float, ...], share: float) -> float:
        angle = np.linspace(0.0, 89.0, 1781)
        light = np.mean([profile.intensity(c, angle) for c in planes], axis=0) * np.cos(np.radians(angle)) ** 3
        enough = np.flatnonzero(light >= share * below * (1 - 1e-9))
        return float(np.tan(np.radians(angle[enough[-1]])))

    return (
        2 * last((0.0, 180.0), 0.5), 2 * last((90.0, 270.0), 0.5), 2**0.5 * last((45.0, 135.0, 225.0, 315.0), 0.25)
    )  # fmt: skip


def _sampled(profile: Photometry) -> Array:
    return profile.intensity(_C[:, None], _G[None, :])


def symmetry(profile: Photometry) -> str:
    """Symmetry in words, found in the distribution itself, to a hundredth of the peak."""
    table = _sampled(profile)
    near = 0.01 * table.max()
    n = len(_C)
    k = np.arange(n)

    def same(order: NDArray[np.int64]) -> bool:
        return bool(np.abs(table - table[order % n]).max() <= near)

    if np.ptp(table, axis=0).max() <= near:
        return "rotational"
    about_0, about_90 = same(-k), same(n // 2 - k)
    if about_0 and about_90:
        return "about both planes"
    if about_0:
        return "about C0-C180"
    if about_90:
        return "about C90-C270"
    return "none"


def shape(profile: Photometry) -> str:
    """Shape of the distribution in words (limits: common practice)."""
    table = _sampled(profile)
    weights = np.sin(np.radians(_G))
    flux = (table * weights).sum()
    if flux <= 0:
        return "dark"
    upward = (table * weights * (_G > 90)).sum() / flux
    if upward > 0.9:
        return "uplight"
    if upward > 0.12:
        low = np.percentile(table[:, (_G > 15) & (_G < 165)], 5)
        return "diffuse all round" if low > 0.25 * table.max() else "up and down"
    c, g = np.radians(_C)[:, None], np.radians(_G)[None, :]
    sideways = np.array(
        [(table * weights * np.sin(g) * np.cos(c)).sum(), (table * weights * np.sin(g) * np.sin(c)).sum()]
    )
    down = (table * weights * np.cos(g)).sum()
    lean = float(np.degrees(np.arctan2(np.linalg.norm(sideways), down)))
    if lean > 12:
        return "wall washer"
    peak = int(table.max(0).argmax())
    if 15 < _G[peak] < 75 and profile.intensity(_C, 0.0).mean() < 0.8 * table.max():
        return "batwing"
    beams = sorted(profile.beam_angles_deg)
    word = next(
        (
            word
            for limit, word in ((15, "narrow spot"), (28, "spot"), (45, "flood"), (80, "wide flood"))
            if beams[1] < limit
        ),
        "very wide",
    )
    return f"oval {word}" if beams[1] > 1.5 * beams[0] else word


def luminous_area_m2(profile: Photometry) -> float:
    """Area of the luminous opening seen from the nadir in m2; 0 for a point."""
    o = profile.opening
    if o.shape in ("disc", "sphere"):
        return float(np.pi / 4 * o.width_m * (o.length_m or o.width_m))
    return o.width_m * o.length_m


def unlikeness(a: Photometry, b: Photometry) -> float:
    """How differently two profiles spread their light: 0 the same, 1 nowhere alike.

    Half the integral over the sphere of |p - q|, p and q the shares of flux by direction; the better of b as it is and b
    turned by a quarter.
    """
    weights = np.sin(np.radians(_G))
    p, q = _sampled(a) * weights, _sampled(b) * weights
    p, q = p / max(p.sum(), 1e-12), q / max(q.sum(), 1e-12)
    quarter = len(_C) // 4
    return float(min(0.5 * np.abs(p - np.roll(q, turn * quarter, 0)).sum() for turn in range(4)))
