"""Loops over pixels: cards seen through a lens, and the shadows that they cast on what is seen.

A card stands upright at its feet; `card` (CARD,) holds the feet (3), the level direction to its right as it is looked at (3), the
level direction it faces (3), metres of a row of its picture, rows of the picture, the column of its feet, and whether left is right.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout

FEET, ACROSS, FACES, ROW_M, ROWS, MIDDLE, MIRRORED, CARD = 0, 3, 6, 9, 10, 11, 12, 13
#: Columns of what is laid of a card: colour times alpha, alpha, normal times alpha, height over its own, distance.
LAID_HEIGHT, LAID_DEPTH, LAID = 7, 8, 9
#: Points asked in a pixel along each side.
FINE = 2
#: Pixels along a side of the tiles by which shadows are laid.
TILE = 16
#: The sky that someone hides is laid so far about them, in their heights.
REACH_HEIGHTS = 1.6
I64 = np.int64


@part
def _texel(texels, first, rows, columns, y, x, c):
    """A texel of a level, 0 beyond its edges."""
    if y < 0 or x < 0 or y >= rows or x >= columns:
        return 0.0
    return texels[first + y * columns + x, c]


@part
def _between(texels, first, rows, columns, y, x, c):
    """A level at a place in texels, by the four about it."""
    fy, fx = math.floor(y - 0.5), math.floor(x - 0.5)
    ty, tx = y - 0.5 - fy, x - 0.5 - fx
    j, i = int(fy), int(fx)
    a = (
        _texel(texels, first, rows, columns, j, i, c) * (1 - tx)
        + _texel(texels, first, rows, columns, j, i + 1, c) * tx
    )
    b = (
        _texel(texels, first, rows, columns, j + 1, i, c) * (1 - tx)
        + _texel(texels, first, rows, columns, j + 1, i + 1, c) * tx
    )
    return a * (1 - ty) + b * ty


@part
def _level_of(levels, width):
    """The level whose texels are about `width` of the finest ones wide."""
    return min(max(int(math.floor(math.log2(max(width, 1.0)) + 0.5)), 0), levels.shape[0] - 1)


@part
def _on_card(card, texels, levels, level, right, up, c):
    """A column of the picture at metres to the right of the feet and above them."""
    scale = 1.0 / (1 << level)
    x = right / card[ROW_M]
    if card[MIRRORED] > 0.0:
        x = -x
    x = (x + card[MIDDLE]) * scale
    y = (card[ROWS] - up / card[ROW_M]) * scale
    return _between(texels, levels[level, 0], levels[level, 1], levels[level, 2], y, x, c)


@kernel
def lay_rows(
    camera, width, height, card, texels, levels, depth, slack, left, top, mirror, place, normal, out, first, last
):
    """Lay a card into rows first to last of a part (h, w, LAID) of a picture of width x height that begins at (left, top).

    `depth` (H, W) is how far the nearest surface is along each sight, in m; what lies farther than that and `slack` is hidden. Where
    `mirror` (H, W; of one pixel for none) is above 0 the sight is thrown back there, at `place` (H, W, 3) by `normal` (H, W, 3), ripples and all,
    before it meets the card: d - 2 (d n) n.
    """
    step = 1.0 / FINE
    share = step * step
    a, f, r, u = (
        camera[layout.CAMERA_PLACE : layout.CAMERA_PLACE + 3],
        camera[layout.CAMERA_FORWARD : layout.CAMERA_FORWARD + 3],
        camera[layout.CAMERA_RIGHT : layout.CAMERA_RIGHT + 3],
        camera[layout.CAMERA_UP : layout.CAMERA_UP + 3],
    )
    mirrored = mirror.shape[0] > 1
    gone, nx, ny, nz = 0.0, 0.0, 0.0, 1.0
    ex, ey, ez = card[FEET] - a[0], card[FEET + 1] - a[1], card[FEET + 2] - a[2]
    ahead = ex * card[FACES] + ey * card[FACES + 1]
    # One row of the picture is so many metres at the card.
    away = math.sqrt(ex * ex + ey * ey + ez * ez)
    pixel_m = 2.0 * camera[layout.CAMERA_HALF_HEIGHT] / height * away
    level, wide = _level_of(levels, pixel_m * step / card[ROW_M]), _level_of(levels, pixel_m / card[ROW_M])
    for j in range(first, last):
        y = top + j
        for i in range(out.shape[1]):
            x = left + i
            for c in range(LAID):
                out[j, i, c] = 0.0
            cx, cy, cd = 0.0, 0.0, 0.0
            if mirrored:
                if mirror[y, x] <= 0.0:
                    continue
                nx, ny, nz = normal[y, x, 0], normal[y, x, 1], normal[y, x, 2]
                length = math.sqrt(nx * nx + ny * ny + nz * nz)
                nx, ny, nz = (nx / length, ny / length, nz / length) if length > 0.5 else (0.0, 0.0, 1.0)
                px, py, pz = place[y, x, 0], place[y, x, 1], place[y, x, 2]
                gone = math.sqrt((px - a[0]) ** 2 + (py - a[1]) ** 2 + (pz - a[2]) ** 2)
                ex, ey, ez = card[FEET] - px, card[FEET + 1] - py, card[FEET + 2] - pz
                ahead = ex * card[FACES] + ey * card[FACES + 1]
            for sy in range(FINE):
                for sx in range(FINE):
                    p = (2.0 * (x + (sx + 0.5) * step) / width - 1.0) * camera[layout.CAMERA_HALF_WIDTH] + camera[
                        layout.CAMERA_SHIFT_X
                    ]
                    q = (1.0 - 2.0 * (y + (sy + 0.5) * step) / height) * camera[layout.CAMERA_HALF_HEIGHT] + camera[
                        layout.CAMERA_SHIFT_Y
                    ]
                    dx, dy, dz = f[0] + p * r[0] + q * u[0], f[1] + p * r[1] + q * u[1], f[2] + p * r[2] + q * u[2]
                    if mirrored:
                        back = 2.0 * (dx * nx + dy * ny + dz * nz)
                        if back >= 0.0:
                            continue
                        dx, dy, dz = dx - back * nx, dy - back * ny, dz - back * nz
                    down = dx * card[FACES] + dy * card[FACES + 1]
                    if ahead * down <= 1e-12:
                        continue
                    t = ahead / down
                    up = t * dz - ez
                    if up < 0.0 or up > card[ROW_M] * card[ROWS]:
                        continue
                    right = (t * dx - ex) * card[ACROSS] + (t * dy - ey) * card[ACROSS + 1]
                    far = gone + t * math.sqrt(dx * dx + dy * dy + dz * dz)
                    if not mirrored and far > depth[y, x] + slack:
                        continue
                    alpha = _on_card(card, texels, levels, level, right, up, I64(3))
                    out[j, i, 3] += share * alpha
                    cx, cy, cd = cx + alpha * right, cy + alpha * up, cd + alpha * far
            alpha = out[j, i, 3]
            if alpha <= 1e-4:
                out[j, i, 3] = 0.0
                continue
            # Colour and normal are asked once, at the middle of what is seen in the pixel.
            total = alpha / share
            right, up = cx / total, cy / total
            own = max(_on_card(card, texels, levels, wide, right, up, I64(3)), 1e-4)
            for c in range(7):
                if c != 3:
                    out[j, i, c] = alpha / own * _on_card(card, texels, levels, wide, right, up, I64(c))
            out[j, i, LAID_HEIGHT] = alpha * up / (card[ROW_M] * card[ROWS])
            out[j, i, LAID_DEPTH] = cd * share


@kernel
def shade_tiles(tiles, position, depth, card, texels, levels, source, size, near, strength, free, first, last):
    """Take from `free` (H, W), the share of a source's straight light, what a card keeps from the places (H, W, 3) seen
    in `tiles` (N, 2: left and top).

    With `near` the source stands at `source` (3) and has a radius of `size` m; else it lies in the direction `source` (3), of length 1,
    and has a radius of `size` radians. The card faces it. A place t before the card on its way to the light sees the card blurred over
    the source's disc, whose image there has a radius of t tan(size); of a near one the triangles give size t / (t + rest).
    """
    tall, spread = card[ROW_M] * card[ROWS], math.tan(size)
    for k in range(first, last):
        for n in range(TILE * TILE):
            y, x = tiles[k, 1] + n // TILE, tiles[k, 0] + n % TILE
            if y >= position.shape[0] or x >= position.shape[1]:
                continue
            if not depth[y, x] < 1e9:
                continue
            px, py, pz = position[y, x, 0], position[y, x, 1], position[y, x, 2]
            if near:
                dx, dy, dz = source[0] - px, source[1] - py, source[2] - pz
            else:
                dx, dy, dz = source[0], source[1], source[2]
            down = dx * card[FACES] + dy * card[FACES + 1]
            if down <= 1e-6:
                continue
            ex, ey, ez = card[FEET] - px, card[FEET + 1] - py, card[FEET + 2] - pz
            t = (ex * card[FACES] + ey * card[FACES + 1]) / down
            if t <= 1e-4 or (near and t >= 1.0):
                continue
            up = t * dz - ez
            if up < -0.3 * tall or up > 1.3 * tall:
                continue
            right = (t * dx - ex) * card[ACROSS] + (t * dy - ey) * card[ACROSS + 1]
            blur = size * t if near else spread * t
            covered = _blurred(card, texels, levels, right, up, blur)
            free[y, x] *= 1.0 - strength * covered


@part
def _blurred(card, texels, levels, right, up, radius):
    """Alpha about a place of the card, over a disc of a radius in m: thirteen points of it, each as wide as their distance."""
    level = _level_of(levels, radius / card[ROW_M])
    r = radius
    total = _on_card(card, texels, levels, level, right, up, I64(3))
    if radius < 0.5 * card[ROW_M]:
        return total
    for k in range(6):
        c, s = math.cos(k * math.pi / 3), math.sin(k * math.pi / 3)
        total += _on_card(card, texels, levels, level, right + 0.45 * r * c, up + 0.45 * r * s, I64(3))
        total += _on_card(card, texels, levels, level, right + 0.85 * r * s, up + 0.85 * r * c, I64(3))
    return total / 13.0


@kernel
def dim_tiles(
    tiles, position, normal, depth, feet, half_width, tall, pieces, across, reach, contact, around, touched, first, last
):
    """Take from `around` (H, W), the share of the light of all around, what someone `tall` m high hides, and from `touched`
    (H, W), that of any light, the dark under the feet.

    Hidden is the configuration factor of an upright rectangle, half as wide as `half_width` m, that faces the place and stands level
    with it, on a level element at a distance c: F = (1/pi) (atan(b/c) - c/sqrt(h2 + c2) atan(b/sqrt(h2 + c2))), b half its width and h its
    height (J. R. Howell, A Catalog of Radiation Heat Transfer Configuration Factors, element to a rectangle at right angles).
    The dark under the feet falls off as exp(-(d/reach)2) from the `pieces` (N, 2) of the ground they stand on, along `across` (2).
    """
    for tile in range(first, last):
        for n in range(TILE * TILE):
            y, x = tiles[tile, 1] + n // TILE, tiles[tile, 0] + n % TILE
            if y >= position.shape[0] or x >= position.shape[1]:
                continue
            if not depth[y, x] < 1e9:
                continue
            ex, ey, ez = position[y, x, 0] - feet[0], position[y, x, 1] - feet[1], position[y, x, 2] - feet[2]
            c = math.sqrt(ex * ex + ey * ey)
            h = tall - ez
            if c > REACH_HEIGHTS * tall or h <= 0.0 or ez < -tall:
                continue
            faces = max(normal[y, x, 2], 0.0)
            c = max(c, 0.25 * half_width)
            slope = math.sqrt(h * h + c * c)
            hidden = (math.atan(half_width / c) - c / slope * math.atan(half_width / slope)) / math.pi
            if ez < 0.0:  # seen from below its feet only what rises over them is there
                low = math.sqrt(ez * ez + c * c)
                hidden -= (math.atan(half_width / c) - c / low * math.atan(half_width / low)) / math.pi
            around[y, x] *= 1.0 - faces * max(hidden, 0.0)
            if contact > 0.0 and abs(ez) < 3.0 * reach and c < tall:
                best = 1e9
                along, off = ex * across[0] + ey * across[1], -ex * across[1] + ey * across[0]
                for k in range(pieces.shape[0]):
                    d = max(max(pieces[k, 0] - along, along - pieces[k, 1]), 0.0)
                    best = min(best, d * d + off * off + ez * ez)
                touched[y, x] *= 1.0 - contact * math.exp(-best / (reach * reach))
