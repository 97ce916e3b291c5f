"""Treatments on a picture, compiled: all that change pixels by themselves in one pass, over bands of rows on all cores."""

from __future__ import annotations

import math
import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel
from valleylight.core.treatments.base import (
    CURVE,
    CURVE_STEPS,
    MASK,
    MATRIX,
    STRENGTH,
    TONE,
    Operation,
    Picture,
    Pointwise,
    Spatial,
    Treatment,
    scale,
)
from valleylight.core.treatments.seen import NOTHING_SEEN, Seen

pool = ThreadPoolExecutor(os.cpu_count() or 1, thread_name_prefix="finish")


def treated(picture: Picture, treatments: Sequence[Treatment], white: float, seen: Seen = NOTHING_SEEN) -> Picture:
    """A linear picture (H, W, 3) after the treatments that are on, in their order; `white` is the value that becomes 1. `seen` tells
    what else is known of the picture, for those that go by it and for limits."""
    waiting = _Waiting([scale(1.0 / white)], [])
    for treatment in treatments:
        if not treatment.on or treatment.strength <= 0:
            continue
        limit = treatment.limit
        if isinstance(treatment, Spatial) or (limit is not None and limit.by_light):
            picture = waiting.done(picture)
            waiting = _Waiting([], [])
        if isinstance(treatment, Pointwise):
            waiting.add(
                treatment.operation(), treatment.strength, None if limit is None else limit.weight(picture, seen)
            )
        elif isinstance(treatment, Spatial):
            picture = _mixed(picture, treatment.applied_in(picture, seen), treatment, seen)
    return waiting.done(picture)


@dataclass
class _Waiting:
    """Operations that are done together, and the masks (H, W) that some of them have."""

    operations: list[Operation]
    masks: list[NDArray[np.float32]]

    def add(self, operation: Operation, strength: float, mask: NDArray[np.float32] | None) -> None:
        row = operation.row.copy()
        row[STRENGTH] = strength
        if mask is not None:
            row[MASK] = len(self.masks)
            self.masks.append(mask)
        self.operations.append(replace(operation, row=row))

    def done(self, picture: Picture) -> Picture:
        if not self.operations:
            return picture
        result = np.empty_like(picture)
        curves = np.zeros((len(self.operations), CURVE_STEPS + 1))
        for row, operation in zip(curves, self.operations, strict=True):
            if operation.curve is not None:
                row[:] = operation.curve
        masks = np.stack(self.masks) if self.masks else np.zeros((0, 1, 1), np.float32)
        rows = np.stack([o.row for o in self.operations])
        in_bands(apply_rows, len(picture), picture, rows, curves, masks, result)
        return result


def _mixed(before: Picture, after: Picture, treatment: Treatment, seen: Seen) -> Picture:
    """As much of a treatment as its strength and its limit let through."""
    if treatment.limit is None and treatment.strength >= 1:
        return after
    share = np.float32(treatment.strength)
    if treatment.limit is None:
        return before + share * (after - before)
    return np.asarray(before + (share * treatment.limit.weight(before, seen))[..., None] * (after - before))


def in_bands(function: Callable[..., None], rows: int, *arguments: object) -> None:
    """Run a row kernel over bands of rows on all cores."""
    bands = np.linspace(0, rows, min(8, rows) + 1).astype(int)
    for job in [pool.submit(function, *arguments, int(a), int(b)) for a, b in zip(bands, bands[1:], strict=False)]:
        job.result()


@kernel
def shoulder(x, knee, white):
    """Tone curve: x up to the knee, then rising to 1 at `white` with a slope that starts at 1 and falls; a knee at 1 cuts off."""
    if x <= knee:
        return x
    if knee >= 1.0:
        return 1.0
    a = (white - knee) / (1.0 - knee)
    t = (x - knee) / (white - knee)
    return min(knee + (1.0 - knee) * a * t / (1.0 + (a - 1.0) * t), 1.0)


@kernel
def _tone(r, g, b, knee, white, toe):
    n = max(max(r, g), b)
    if n <= 0.0:
        return 0.0, 0.0, 0.0
    y = shoulder(n, knee, white)
    if toe > 0.0:
        y = y * y * (1.0 + toe) / (y + toe)
    s = y / n
    r, g, b = r * s, g * s, b * s
    if n > knee:
        # Highlights run to white along their own hue instead of breaking channel by channel.
        d = min((n - knee) / (white - knee), 1.0)
        d = d * d * (3.0 - 2.0 * d)
        r, g, b = r + (y - r) * d, g + (y - g) * d, b + (y - b) * d
    return r, g, b


@kernel
def _bend(curves, number, x):
    """Value of a tabulated curve over the square root of x, linear between the steps."""
    place = math.sqrt(min(max(x, 0.0), 1.0)) * CURVE_STEPS
    k = min(int(place), CURVE_STEPS - 1)
    t = place - k
    return (1.0 - t) * curves[number, k] + t * curves[number, k + 1]


@kernel
def apply_rows(source, operations, curves, masks, result, first, last):
    """Run operations (K, OPERATION_WIDTH) over rows first to last of a linear picture (H, W, 3), into `result` (H, W, 3).

    `curves` (K, CURVE_STEPS + 1) holds the curve of each operation that has one, `masks` (M, H, W) the masks that their rows name.
    """
    for y in range(first, last):
        for x in range(source.shape[1]):
            r, g, b = float(source[y, x, 0]), float(source[y, x, 1]), float(source[y, x, 2])
            for k in range(operations.shape[0]):
                kind = operations[k, 0]
                share, mask = operations[k, STRENGTH], int(operations[k, MASK])
                if mask >= 0:
                    share *= masks[mask, y, x]
                if share == 0.0:
                    continue
                r0, g0, b0 = r, g, b
                if kind == MATRIX:
                    r, g, b = (
                        operations[k, 1] * r + operations[k, 2] * g + operations[k, 3] * b,
                        operations[k, 4] * r + operations[k, 5] * g + operations[k, 6] * b,
                        operations[k, 7] * r + operations[k, 8] * g + operations[k, 9] * b,
                    )
                    r, g, b = max(r, 0.0), max(g, 0.0), max(b, 0.0)
                elif kind == TONE:
                    r, g, b = _tone(r, g, b, operations[k, 1], operations[k, 2], operations[k, 3])
                elif kind == CURVE:
                    r, g, b = _bend(curves, k, r), _bend(curves, k, g), _bend(curves, k, b)
                if share != 1.0:
                    r, g, b = r0 + share * (r - r0), g0 + share * (g - g0), b0 + share * (b - b0)
            result[y, x, 0], result[y, x, 1], result[y, x, 2] = r, g, b


@kernel
def enlarge_rows(small, result, first, last):
    """A small picture (h, w, C) enlarged bilinearly, for rows first to last of the result (H, W, C)."""
    height, width = result.shape[0], result.shape[1]
    sh, sw = small.shape[0], small.shape[1]
    for y in range(first, last):
        v = min(max((y + 0.5) * sh / height - 0.5, 0.0), sh - 1.0)
        y0 = int(v)
        y1 = min(y0 + 1, sh - 1)
        t = v - y0
        for x in range(width):
            u = min(max((x + 0.5) * sw / width - 0.5, 0.0), sw - 1.0)
            x0 = int(u)
            x1 = min(x0 + 1, sw - 1)
            s = u - x0
            for c in range(small.shape[2]):
                result[y, x, c] = (1 - t) * ((1 - s) * small[y0, x0, c] + s * small[y0, x1, c]) + t * (
                    (1 - s) * small[y1, x0, c] + s * small[y1, x1, c]
                )
