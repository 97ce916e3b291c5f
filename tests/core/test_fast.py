"""Short polynomials against the C library's functions."""

from __future__ import annotations

import numpy as np
import pytest
from numba import njit

from valleylight.core.jit import fast


@njit
def _all(turns, cosines):
    out = np.zeros((4, len(turns)))
    for k in range(len(turns)):
        out[0, k], out[1, k] = fast.sincos_turns(turns[k])
        out[2, k] = fast.arccos(cosines[k])
        out[3, k] = fast.turns_of(np.sin(2 * np.pi * turns[k]) * 3.0, np.cos(2 * np.pi * turns[k]) * 3.0)
    return out


def test_fast_functions_agree_with_numpy():
    turns, cosines = np.linspace(-0.5, 1.5, 4001), np.linspace(-1, 1, 4001)
    sine, cosine, angle, back = _all(turns, cosines)
    assert sine == pytest.approx(np.sin(2 * np.pi * turns), abs=3e-9)
    assert cosine == pytest.approx(np.cos(2 * np.pi * turns), abs=3e-9)
    assert angle == pytest.approx(np.arccos(cosines), abs=3e-8)
    apart = np.abs(back - turns % 1.0)
    assert np.minimum(apart, 1.0 - apart).max() < 1e-8
