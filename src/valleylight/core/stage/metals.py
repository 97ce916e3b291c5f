"""Reflectance of named metals from their measured complex index.

n + ik at 650, 610, 550, 510, 450 nm, rounded values after P. B. Johnson, R. W. Christy (1972, 1974: gold, copper, silver,
chromium, iron, nickel) and A. D. Rakic (1998: aluminium), and handbook values for alloys and zinc (from memory).
Fresnel reflectance of a conductor against air, M. Born, E. Wolf, Principles of Optics, section 14.2.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

WAVELENGTHS_NM = (650, 610, 550, 510, 450)
INDEX: dict[str, tuple[tuple[float, ...], tuple[float, ...]]] = {
    "aluminium": ((1.49, 1.22, 0.96, 0.80, 0.62), (7.82, 7.37, 6.69, 6.23, 5.47)),
    "brass": ((0.45, 0.44, 0.50, 0.72, 1.40), (3.55, 3.20, 2.55, 2.10, 1.83)),
    "bronze": ((0.42, 0.52, 0.95, 1.12, 1.20), (3.25, 2.80, 2.35, 2.25, 2.10)),
    "chromium": ((3.11, 3.18, 3.18, 2.75, 2.30), (3.31, 3.33, 3.32, 3.30, 3.14)),
    "copper": ((0.21, 0.27, 0.95, 1.13, 1.17), (3.66, 3.24, 2.58, 2.57, 2.40)),
    "gold": ((0.16, 0.21, 0.43, 0.74, 1.50), (3.15, 2.86, 2.45, 1.92, 1.88)),
    "iron": ((2.90, 2.93, 2.95, 2.86, 2.60), (3.06, 3.00, 2.93, 2.90, 2.75)),
    "nickel": ((2.04, 1.97, 1.83, 1.71, 1.61), (3.82, 3.63, 3.27, 3.03, 2.61)),
    "silver": ((0.05, 0.06, 0.06, 0.05, 0.04), (4.36, 4.03, 3.53, 3.19, 2.66)),
    "zinc": ((2.60, 2.20, 1.60, 1.20, 0.90), (5.20, 5.00, 4.55, 4.20, 3.70)),
}
#: Angle whose reflectance the edge term meets exactly.
EDGE_COSINE = 1.0 / 7.0


def reflectance(n: NDArray[np.float64], k: NDArray[np.float64], cosine: float) -> NDArray[np.float64]:
    """Unpolarised Fresnel reflectance of a conductor of index n + ik at the cosine of incidence."""
    eta = np.asarray(n) + 1j * np.asarray(k)
    inside = np.sqrt(1.0 - (1.0 - cosine**2) / eta**2)
    s = (cosine - eta * inside) / (cosine + eta * inside)
    p = (eta * cosine - inside) / (eta * cosine + inside)
    return np.asarray((np.abs(s) ** 2 + np.abs(p) ** 2) / 2)


@lru_cache(maxsize=32)
def colour(name: str) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
    """Linear RGB reflectance of a named metal at normal incidence and at `EDGE_COSINE`. KeyError for another name.

    Bands: red the mean of 650 and 610 nm, green of 550 and 510 nm, blue 450 nm.
    """
    n, k = (np.array(v) for v in INDEX[name])

    def rgb(cosine: float) -> tuple[float, float, float]:
        r = reflectance(n, k, cosine)
        return float(r[:2].mean()), float(0.7 * r[2] + 0.3 * r[3]), float(r[4])

    return rgb(1.0), rgb(EDGE_COSINE)
