"""The last step, compiled: code values of a display. Source: IEC 61966-2-1."""

from __future__ import annotations

import math

from valleylight.core.jit.compiled import kernel

ENCODE_STEPS = 4096


@kernel
def encode_rows(source, table, result, first, last):
    """Display code values (uint8) of linear rows through a table of ENCODE_STEPS over the square root of the value."""
    for y in range(first, last):
        for x in range(source.shape[1]):
            for c in range(3):
                v = math.sqrt(min(max(source[y, x, c], 0.0), 1.0))
                result[y, x, c] = table[int(v * (ENCODE_STEPS - 1) + 0.5)]
