"""The edges by which a model is drawn: borders, and where faces meet at an angle; the longest of them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.stage.arrival.welding import welded
from valleylight.core.stage.model import Mesh, StageData
from valleylight.core.together import together

#: Lines of a drawing, and faces that meet at less than this are one surface.
MOST_LINES, SMOOTH_DEG = 5000, 25.0
#: A mesh keeps at least so many lines, and so many times what would fill the drawing over all its uses.
LEAST_LINES, SPARE = 12, 4
#: Meshes with more triangles are drawn by their box.
LARGEST = 300_000


def outline(stage: StageData, most: int = MOST_LINES) -> NDArray[np.float64]:
    """Lines (N, 2, 3) in the file's frame, N at most `most`, the longest first."""
    uses = np.bincount([i.mesh for i in stage.instances], minlength=len(stage.meshes))
    used = np.flatnonzero(uses).tolist()
    # Of what stands many times only the longest lines can be among those that are drawn, or it is drawn by a few.
    edges = together(lambda k: _edges(stage.meshes[k], max(LEAST_LINES, SPARE * most // int(uses[k]))), used)
    drawn = dict(zip(used, edges, strict=True))
    lines = [drawn[i.mesh] @ i.matrix[:3, :3].T + i.matrix[:3, 3] for i in stage.instances]
    every = np.concatenate(lines) if lines else np.zeros((0, 2, 3))
    if len(every) > most:
        length = np.linalg.norm(every[:, 1] - every[:, 0], axis=1)
        every = every[np.argsort(-length, kind="stable")[:most]]
    return every


def _edges(mesh: Mesh, most: int) -> NDArray[np.float64]:
    """Lines (N, 2, 3) of one mesh in its own frame, at most so many."""
    points = mesh.points.astype(np.float64)
    if not len(mesh.triangles):
        return np.zeros((0, 2, 3))
    size = float(np.ptp(points, axis=0).max())
    if len(mesh.triangles) > LARGEST:
        return _box_lines(points.min(0), points.max(0))
    one, first = welded(points)
    corners = points[first]
    t = one[mesh.triangles.astype(np.int64)]
    normal = np.cross(corners[t[:, 1]] - corners[t[:, 0]], corners[t[:, 2]] - corners[t[:, 0]])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-300)
    edges = np.sort(t[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    face = np.repeat(np.arange(len(t)), 3)
    order = np.argsort(edges[:, 0] * len(corners) + edges[:, 1], kind="stable")
    edges, face = edges[order], face[order]
    same = (edges[1:] == edges[:-1]).all(1)
    starts = np.flatnonzero(np.concatenate([[True], ~same]))
    counts = np.diff(np.append(starts, len(edges)))
    kept = counts != 2
    pairs = starts[counts == 2]
    cosine = np.einsum("ij,ij->i", normal[face[pairs]], normal[face[pairs + 1]])
    kept[np.flatnonzero(counts == 2)] = np.abs(cosine) < np.cos(np.radians(SMOOTH_DEG))
    lines = corners[edges[starts[kept]]]
    length = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1)
    lines = lines[length > 1e-9 * max(size, 1e-9)]
    if len(lines) > most:
        length = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1)
        lines = lines[np.argsort(-length, kind="stable")[:most]]
    return lines if len(lines) else _box_lines(points.min(0), points.max(0))


def _box_lines(low: NDArray[np.float64], high: NDArray[np.float64]) -> NDArray[np.float64]:
    corner = np.array([[(low, high)[k >> a & 1][a] for a in range(3)] for k in range(8)])
    pairs = [(a, a | 1 << k) for a in range(8) for k in range(3) if not a >> k & 1]
    return np.asarray(corner[pairs])
