"""The shadow of clouds on the ground: a table, looked up along the sun."""

from __future__ import annotations

import math

from valleylight.core.jit.compiled import kernel


@kernel
def through_cloud(shadow, frame, x, y, z):
    """Share of the sun that clouds leave at a point: the shadow map (N, N) of a periodic cloud field, followed along the sun.

    `frame` (8,): cosine and sine of the field's turn, its drift in x and y, its base height, metres moved sideways in x and y
    for each metre of height, and the inverse length of the tile. An empty map is a cloudless sky.
    """
    n = shadow.shape[0]
    if n == 0:
        return 1.0
    px = x + (frame[4] - z) * frame[5] - frame[2]
    py = y + (frame[4] - z) * frame[6] - frame[3]
    u = (px * frame[0] + py * frame[1]) * frame[7] * n - 0.5
    v = (py * frame[0] - px * frame[1]) * frame[7] * n - 0.5
    i, j = int(math.floor(u)), int(math.floor(v))
    s, t = u - i, v - j
    i, j = i % n, j % n
    i1, j1 = (i + 1) % n, (j + 1) % n
    return (1 - s) * ((1 - t) * shadow[i, j] + t * shadow[i, j1]) + s * ((1 - t) * shadow[i1, j] + t * shadow[i1, j1])
