"""Water with waves: level triangles cut small and displaced by a sum of sines."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.trace.arrays import layout

WAVES = 12
CUTS_A_WAVE = 9
MOST_TRIANGLES = 600_000


def waves(
    x: NDArray[np.float64], y: NDArray[np.float64], height_m: float, length_m: float
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """Height in m and its slopes along x and y at points of level water.

    Sines of random heading and length about `length_m`, amplitude in proportion to length (equal steepness), scaled so
    that twice the root mean square is half of `height_m`.
    """
    random = np.random.default_rng(5)
    lengths = length_m * np.exp(random.uniform(-0.9, 0.55, WAVES))
    heading = 0.9 + random.normal(0, 0.9, WAVES)
    phase = random.uniform(0, 2 * np.pi, WAVES)
    k = 2 * np.pi / lengths
    amplitude = lengths * random.uniform(0.5, 1.0, WAVES)
    amplitude *= height_m / 4 / np.sqrt((amplitude**2).sum() / 2)
    kx, ky = k * np.cos(heading), k * np.sin(heading)
    z, zx, zy = np.zeros_like(x), np.zeros_like(x), np.zeros_like(x)
    for a, p, q, start in zip(amplitude, kx, ky, phase, strict=True):
        angle = x * p + y * q + start
        slope = a * np.cos(angle)
        z += a * np.sin(angle)
        zx += slope * p
        zy += slope * q
    return z, zx, zy


def rippled(record: NDArray[np.float32], height_m: float, length_m: float) -> NDArray[np.float32]:
    """Triangle records (T, 32) with the level ones cut into pieces and displaced upwards, with the waves' normals.

    The last few are kept: layers and fixtures change more often than water.
    """
    return _rippled(np.ascontiguousarray(record, np.float32).tobytes(), record.shape[1], height_m, length_m)


@lru_cache(maxsize=4)
def _rippled(data: bytes, width: int, height_m: float, length_m: float) -> NDArray[np.float32]:
    record = np.frombuffer(data, np.float32).reshape(-1, width)
    normal = np.cross(
        record[:, layout.three(layout.TRIANGLE_EDGE_1)],
        record[:, layout.three(layout.TRIANGLE_EDGE_2)],
    )
    level = np.abs(normal[:, 2]) > 0.95 * np.linalg.norm(normal, axis=1)
    flat = record[level].astype(float)
    if not len(flat):
        return record
    longest = max(
        np.linalg.norm(flat[:, layout.three(layout.TRIANGLE_EDGE_1)], axis=1).max(), np.linalg.norm(flat[:, layout.three(layout.TRIANGLE_EDGE_2)], axis=1).max(),
        np.linalg.norm(flat[:, layout.three(layout.TRIANGLE_EDGE_2)] - flat[:, layout.three(layout.TRIANGLE_EDGE_1)], axis=1).max(),
    )  # fmt: skip
    cuts = int(np.clip(np.ceil(longest * CUTS_A_WAVE / length_m), 1, np.sqrt(MOST_TRIANGLES / len(flat))))
    # Barycentric corners of the pieces, the same for every triangle so that shared edges meet.
    i, j = np.meshgrid(np.arange(cuts), np.arange(cuts), indexing="ij")
    up = (i + j) < cuts
    down = (i + j) < cuts - 1
    a = np.stack([i[up], j[up]], 1)
    b = np.stack([i[down], j[down]], 1)
    pieces = np.concatenate([
        np.stack([a, a + [1, 0], a + [0, 1]], 1), np.stack([b + [1, 0], b + [1, 1], b + [0, 1]], 1)
    ]) / cuts  # fmt: skip
    out = np.zeros((len(flat), len(pieces), record.shape[1]), np.float32)
    out[:] = record[level][:, None]
    s, t = pieces[None, :, :, 0, None], pieces[None, :, :, 1, None]
    corner = (
        flat[:, None, None, layout.three(layout.TRIANGLE_CORNER)]
        + s * flat[:, None, None, layout.three(layout.TRIANGLE_EDGE_1)]
        + t * flat[:, None, None, layout.three(layout.TRIANGLE_EDGE_2)]
    )
    z, zx, zy = waves(corner[..., 0], corner[..., 1], height_m, length_m)
    corner[..., 2] += z
    side = np.sign(normal[level, 2])[:, None, None]
    n = np.stack([-zx * side, -zy * side, np.ones_like(zx) * side], -1)
    n /= np.linalg.norm(n, axis=-1, keepdims=True)
    uv = flat[:, layout.TRIANGLE_UV : layout.TRIANGLE_UV + 6].reshape(-1, 3, 2)
    w = uv[:, None, None, 0] + s * (uv[:, 1] - uv[:, 0])[:, None, None] + t * (uv[:, 2] - uv[:, 0])[:, None, None]
    out[..., layout.three(layout.TRIANGLE_CORNER)] = corner[..., 0, :]
    (
        out[..., layout.three(layout.TRIANGLE_EDGE_1)],
        out[..., layout.three(layout.TRIANGLE_EDGE_2)],
    ) = corner[..., 1, :] - corner[..., 0, :], corner[..., 2, :] - corner[..., 0, :]
    out[..., layout.TRIANGLE_NORMALS : layout.TRIANGLE_NORMALS + 9] = n.reshape(*n.shape[:2], 9)
    out[..., layout.TRIANGLE_UV : layout.TRIANGLE_UV + 6] = w.reshape(*w.shape[:2], 6)
    return np.concatenate([record[~level], out.reshape(-1, record.shape[1])])
