"""From scene luminance to the picture's linear value.

Sources: exposure value EV = log2(N^2 / t) at ISO 100 (ISO 2720:1974); saturation-based speed S = 78 / H_sat and focal
plane exposure H = q L t / N^2 with q = 0.65 (ISO 12232:2019, annex; q for a lens of 0.9 transmittance at 10 degrees off
axis). A pixel reaches 1 at the luminance that saturates the sensor: L_sat = 78 / 0.65 N^2 / (S t) = 1.2 x 2^EV100.
"""

from __future__ import annotations

import math

from valleylight.core.project.description import Lens

#: H_sat = SATURATION / S in lx s (ISO 12232).
SATURATION = 78.0
#: Lens and vignetting factor q (ISO 12232).
LENS_Q = 0.65
#: Reflected-light meter constant K in cd s / m2 (ISO 2720; 12.5 is common practice).
METER_K = 12.5


def ev100(lens: Lens) -> float:
    """Exposure value at ISO 100: log2(N^2 / t) - log2(S / 100)."""
    return math.log2(lens.f_number**2 / lens.shutter_s) - math.log2(lens.iso / 100.0)


def saturation_luminance(lens: Lens) -> float:
    """Luminance in cd/m2 that just saturates: the picture's linear 1."""
    return SATURATION / LENS_Q / 100.0 * 2.0 ** ev100(lens)


def metered_ev100(luminance: float) -> float:
    """EV100 a reflected-light meter would set for a mean luminance in cd/m2: log2(100 L / K)."""
    return math.log2(max(luminance, 1e-9) * 100.0 / METER_K)
