"""How the colour of a source follows its level.

Incandescent lamps: flux ~ (V / V0)^3.4 and colour temperature ~ (V / V0)^0.42; so at a share s of the flux the
temperature is T0 s^(0.42 / 3.4). Source: IES Lighting Handbook, 10th edition, light sources, exponents of
gas-filled lamps (from memory).
"""

from __future__ import annotations

from valleylight.core.project.description import Dimming

FLUX_EXPONENT, KELVIN_EXPONENT = 3.4, 0.42
#: A warm-dimming LED follows the incandescent lamp to this temperature and stays there (common practice).
WARM_FLOOR_K = 1800.0
COOLEST_K = 1000.0


def dimmed_kelvin(kelvin: float, share: float, dimming: Dimming) -> float:
    """Colour temperature in K at a share of the full flux (above 1: over voltage)."""
    if dimming == "steady" or share <= 0:
        return kelvin
    now = kelvin * voltage_share(share) ** KELVIN_EXPONENT
    if dimming == "warm":
        return min(max(now, min(WARM_FLOOR_K, kelvin)), kelvin)
    return max(now, COOLEST_K)


def voltage_share(flux_share: float) -> float:
    """Share of the rated voltage at which an incandescent lamp gives a share of its flux."""
    return float(max(flux_share, 0.0) ** (1 / FLUX_EXPONENT))
