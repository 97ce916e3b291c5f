"""Loops over pixels: what was seen before averaged into a frame, a still as a moved lens sees it."""

from __future__ import annotations

import math

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout

#: Distances that differ by less are of one surface.
SAME = 0.03
#: Turns taken to find what a moved lens sees at a pixel.
TURNS = 12


@kernel
def seen_before(camera, then, x, y, width, height, far, at):
    """Where the place seen at a pixel (x, y) was seen by another lens: pixel and distance into `at` (3,); distance 0 where behind it."""
    u = ((2.0 * x + 1.0) / width - 1.0) * camera[layout.CAMERA_HALF_WIDTH] + camera[layout.CAMERA_SHIFT_X]
    v = (1.0 - (2.0 * y + 1.0) / height) * camera[layout.CAMERA_HALF_HEIGHT] + camera[layout.CAMERA_SHIFT_Y]
    ahead = right = up = distance = 0.0
    length = 0.0
    endless = math.isinf(far)
    for k in range(3):
        d = camera[layout.CAMERA_FORWARD + k] + u * camera[layout.CAMERA_RIGHT + k] + v * camera[layout.CAMERA_UP + k]
        length += d * d
    length = math.sqrt(length)
    for k in range(3):
        d = camera[layout.CAMERA_FORWARD + k] + u * camera[layout.CAMERA_RIGHT + k] + v * camera[layout.CAMERA_UP + k]
        d /= length
        if not endless:
            d = d * far + camera[layout.CAMERA_PLACE + k] - then[layout.CAMERA_PLACE + k]
        ahead += d * then[layout.CAMERA_FORWARD + k]
        right += d * then[layout.CAMERA_RIGHT + k]
        up += d * then[layout.CAMERA_UP + k]
        distance += d * d
    if ahead <= 1e-9:
        at[2] = 0.0
        return
    at[0] = ((right / ahead - then[layout.CAMERA_SHIFT_X]) / then[layout.CAMERA_HALF_WIDTH] + 1.0) / 2.0 * width - 0.5
    at[1] = (1.0 - (up / ahead - then[layout.CAMERA_SHIFT_Y]) / then[layout.CAMERA_HALF_HEIGHT]) / 2.0 * height - 0.5
    at[2] = math.inf if endless else math.sqrt(distance)


@part
def _is_of(far, wanted, same):
    """Whether a distance is that of the surface asked for."""
    if math.isinf(wanted) or math.isinf(far):
        return math.isinf(wanted) and math.isinf(far)
    return abs(far - wanted) <= same * wanted + 0.01


@part
def _tent(i, t):
    """Weight of the i-th of four neighbours (-1 to 2) between two of them, straight."""
    return max(1.0 - abs(i - t), 0.0)


@part
def _cubic(i, t):
    """The same by Catmull and Rom's cubic (R. Keys, Cubic convolution interpolation, 1981, a = -1/2)."""
    x = abs(i - t)
    if x < 1.0:
        return (1.5 * x - 2.5) * x * x + 1.0
    if x < 2.0:
        return ((-0.5 * x + 2.5) * x - 4.0) * x + 2.0
    return 0.0


@kernel
def steady_rows(
    now, depth, noise, camera, before, before_depth, before_frames, then, most, out, frames, scratch, first, last
):
    """Average what was seen before into rows first to last; `scratch` (H, 6) holds a row's own numbers."""
    height, width = depth.shape
    for y in range(first, last):
        at = scratch[y, 0:3]
        old = scratch[y, 3:6]
        for x in range(width):
            seen_before(camera, then, x, y, width, height, depth[y, x], at)
            weight = 0.0
            held = 0.0
            old[0] = old[1] = old[2] = 0.0
            if at[2] > 0.0 and -0.5 <= at[0] <= width - 0.5 and -0.5 <= at[1] <= height - 0.5:
                fx, fy = math.floor(at[0]), math.floor(at[1])
                tx, ty = at[0] - fx, at[1] - fy
                # A cubic keeps what is averaged again and again sharp; by the edges of things it would reach over them.
                smooth = True
                for j in range(-1, 3):
                    for i in range(-1, 3):
                        xx, yy = int(fx) + i, int(fy) + j
                        if (
                            xx < 0
                            or yy < 0
                            or xx >= width
                            or yy >= height
                            or not _is_of(before_depth[yy, xx], at[2], SAME)
                        ):
                            smooth = False
                for j in range(-1, 3):
                    for i in range(-1, 3):
                        w = _cubic(i, tx) * _cubic(j, ty) if smooth else _tent(i, tx) * _tent(j, ty)
                        xx, yy = min(max(int(fx) + i, 0), width - 1), min(max(int(fy) + j, 0), height - 1)
                        if w != 0.0 and (smooth or _is_of(before_depth[yy, xx], at[2], SAME)):
                            weight += w
                            held += w * before_frames[yy, xx]
                            for c in range(3):
                                old[c] += w * before[yy, xx, c]
            if weight < 0.05:
                frames[y, x] = 1.0
                for c in range(3):
                    out[y, x, c] = now[y, x, c]
                continue
            held = min(held / weight, most - 1.0)
            for c in range(3):
                mean = square = 0.0
                count = 0
                for j in range(max(y - 1, 0), min(y + 2, height)):
                    for i in range(max(x - 1, 0), min(x + 2, width)):
                        mean += now[j, i, c]
                        square += now[j, i, c] * now[j, i, c]
                        count += 1
                mean /= count
                reach = math.sqrt(max(square / count - mean * mean, 0.0)) + noise[y, x] * mean
                was = max(old[c] / weight, 0.0)
                kept = min(max(was, mean - reach), mean + reach)
                if kept != was:
                    held = min(held, 2.0)
                old[c] = kept
            share = held / (held + 1.0)
            for c in range(3):
                out[y, x, c] = now[y, x, c] + share * (old[c] - now[y, x, c])
            frames[y, x] = held + 1.0


@kernel
def pushed_rows(source, depth, moved, still, out, at_rows, first, last):
    """Rows first to last as the moved lens sees them."""
    height, width = depth.shape
    for y in range(first, last):
        at = at_rows[y]
        for x in range(width):
            # Nearest first: a place in front of all is looked for before one behind.
            far = depth[y, x]
            for j in range(-2, 3):
                for i in range(-2, 3):
                    yy, xx = min(max(y + 3 * j, 0), height - 1), min(max(x + 3 * i, 0), width - 1)
                    far = min(far, depth[yy, xx])
            for _turn in range(TURNS):
                seen_before(moved, still, x, y, width, height, far, at)
                if at[2] <= 0.0:
                    break
                yy = min(max(int(math.floor(at[1] + 0.5)), 0), height - 1)
                xx = min(max(int(math.floor(at[0] + 0.5)), 0), width - 1)
                there = depth[yy, xx]
                # The distance along the moved lens's sight that ends as far from the still lens as what it has there.
                if math.isinf(there):
                    found = math.inf
                elif math.isinf(far):
                    found = there
                else:
                    found = far * there / max(at[2], 1e-9)
                if found == far or abs(found - far) < 1e-4 * far:
                    break
                far = found
            seen_before(moved, still, x, y, width, height, far, at)
            px, py = min(max(at[0], 0.0), width - 1.0), min(max(at[1], 0.0), height - 1.0)
            x0, y0 = min(int(px), width - 2), min(int(py), height - 2)
            fx, fy = px - x0, py - y0
            for c in range(3):
                top = source[y0, x0, c] * (1.0 - fx) + source[y0, x0 + 1, c] * fx
                bottom = source[y0 + 1, x0, c] * (1.0 - fx) + source[y0 + 1, x0 + 1, c] * fx
                out[y, x, c] = top * (1.0 - fy) + bottom * fy
