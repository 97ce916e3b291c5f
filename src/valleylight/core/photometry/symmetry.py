"""Unfold the measured C-planes of a symmetrical distribution to the whole turn."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Planes = tuple[NDArray[np.float64], NDArray[np.float64]]


def mirror(angles_deg: NDArray[np.float64], table: NDArray[np.float64], about_deg: float) -> Planes:
    """Add the mirror image of the planes about the C-plane `about_deg`, keeping shared planes once.

    `angles_deg` (C,), `table` (C, G); the result is sorted and lies within 0 to 360.
    """
    reflected = np.mod(2 * about_deg - angles_deg, 360.0)
    return tidy(np.concatenate([np.mod(angles_deg, 360.0), reflected]), np.concatenate([table, table]))


def tidy(angles_deg: NDArray[np.float64], table: NDArray[np.float64]) -> Planes:
    """Sort planes into 0 to 360, drop repeats, and close the turn with the plane 360 equal to 0.

    When no plane lies at 0 one is interpolated between its neighbours across the seam.
    """
    angles = np.mod(angles_deg, 360.0)
    angles, first = np.unique(np.round(angles, 6), return_index=True)
    table = table[first]
    if angles[0] > 1e-6:
        gap = angles[0] + 360.0 - angles[-1]
        share = (360.0 - angles[-1]) / gap
        seam = (1 - share) * table[-1] + share * table[0]
        angles, table = np.concatenate([[0.0], angles]), np.vstack([seam, table])
    return np.concatenate([angles, [360.0]]), np.vstack([table, table[:1]])
