"""Kernel of sunlit shares: rays from points of faces towards directions of the sun."""

from __future__ import annotations

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.held import held
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.nextevent.passage import FAR, PASSES, through_glass

#: How far off its place a measuring point's rays start, beside the stage's own LIFT, as a share of its largest coordinate (single
#: precision): what it touches must not shade it. Light is worked out for the very place.
LIFT_SHARE = 1e-6


@part
def lifted(work, x, y, z):
    """How far off a point its rays start, in metres."""
    return work.settings[layout.LIFT] + LIFT_SHARE * max(max(abs(x), abs(y)), abs(z))


@kernel
def sunlit(arrays, workbench, points, normals, faces, directions, first, last, out):
    """Add to `out` (F, D), for directions `first` to `last` of (D, 3), the light that reaches each point of (P, 3) from there: 1 in
    the open, 0 behind something opaque or on the far side of its surface, and what panes, cut-outs and solid glass let through
    between. `faces` (P,) tells to which row a point counts; a normal of length zero takes every direction."""
    scene, work = held(arrays), held(workbench)
    for p in range(points.shape[0]):
        nx, ny, nz = normals[p, 0], normals[p, 1], normals[p, 2]
        lift = lifted(work, points[p, 0], points[p, 1], points[p, 2])
        ox, oy, oz = points[p, 0] + lift * nx, points[p, 1] + lift * ny, points[p, 2] + lift * nz
        free = nx == 0.0 and ny == 0.0 and nz == 0.0
        for d in range(first, last):
            dx, dy, dz = directions[d, 0], directions[d, 1], directions[d, 2]
            if not free and dx * nx + dy * ny + dz * nz <= 0.0:
                continue
            if rays.blocked(scene.handle, work.ray, work.word, ox, oy, oz, dx, dy, dz, FAR, rays.OPAQUE | rays.BODY):
                continue
            r, g, b, _ = through_glass(scene, work, ox, oy, oz, dx, dy, dz, FAR, PASSES)
            out[faces[p], d] += 0.2126 * r + 0.7152 * g + 0.0722 * b
