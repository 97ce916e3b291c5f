"""Shapes to build things of. Each yields a `Shape`: points, normals, uv in metres, triangles. Z is up."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]


@dataclass
class Shape:
    """Triangles with smooth or flat normals; `uv` is in metres and is scaled by the material's texture size."""

    points: Array
    normals: Array
    uv: Array
    triangles: NDArray[np.int64]

    def moved(self, offset: ArrayLike) -> Shape:
        return Shape(self.points + np.asarray(offset, float), self.normals, self.uv, self.triangles)

    def turned(self, degrees: float, axis: str = "z") -> Shape:
        matrix = rotation(degrees, axis)
        return Shape(self.points @ matrix.T, self.normals @ matrix.T, self.uv, self.triangles)

    def scaled(self, factors: ArrayLike) -> Shape:
        f = np.broadcast_to(np.asarray(factors, float), 3)
        n = self.normals / f
        n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-20)
        return Shape(self.points * f, n, self.uv, self.triangles)

    def shifted_uv(self, du: float, dv: float) -> Shape:
        return Shape(self.points, self.normals, self.uv + [du, dv], self.triangles)

    def of(self, which: NDArray[np.bool_] | NDArray[np.int64] | slice) -> Shape:
        """Some of its triangles, with the points that they use."""
        kept = self.triangles[which]
        used, again = np.unique(kept, return_inverse=True)
        return Shape(self.points[used], self.normals[used], self.uv[used], again.reshape(kept.shape))

    def fixed_uv(self, u: float, v: float) -> Shape:
        return Shape(self.points, self.normals, np.tile([u, v], (len(self.points), 1)), self.triangles)


def rotation(degrees: float, axis: str = "z") -> Array:
    a = np.radians(degrees)
    c, s = np.cos(a), np.sin(a)
    return {
        "x": np.array([[1, 0, 0], [0, c, -s], [0, s, c]]),
        "y": np.array([[c, 0, s], [0, 1, 0], [-s, 0, c]]),
        "z": np.array([[c, -s, 0], [s, c, 0], [0, 0, 1.0]]),
    }[axis]


def join(shapes: list[Shape]) -> Shape:
    counts = np.cumsum([0] + [len(s.points) for s in shapes])
    return Shape(
        np.concatenate([s.points for s in shapes]), np.concatenate([s.normals for s in shapes]),
        np.concatenate([s.uv for s in shapes]),
        np.concatenate([s.triangles + k for s, k in zip(shapes, counts, strict=False)]),
    )  # fmt: skip


def _normal(p: Array) -> Array:
    """Cross product of the first two edges; plain arithmetic, for it runs fifty thousand times."""
    (ax, ay, az), (bx, by, bz) = (p[1] - p[0]).tolist(), (p[2] - p[0]).tolist()
    return np.array([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx])


def polygon(corners: ArrayLike, uv: Array | None = None) -> Shape:
    """A flat convex polygon, counter-clockwise seen from its front."""
    p = np.asarray(corners, float)
    n = _normal(p)
    n /= np.sqrt(n @ n)
    if uv is None:
        axis = int(np.abs(n).argmax())
        u, v = ((1, 2), (0, 2), (0, 1))[axis]
        uv = np.column_stack([p[:, u], -p[:, v]])
    k = np.arange(1, len(p) - 1)
    return Shape(p, np.tile(n, (len(p), 1)), uv, np.column_stack([np.zeros_like(k), k, k + 1]))


def _box_part_by_part(a: Array, b: Array, ease: float, faces: str, along: int) -> Shape:
    parts = []
    for axis, name in ((0, "x"), (1, "y"), (2, "z")):
        u, v = (axis + 1) % 3, (axis + 2) % 3
        for side, letter in ((-1, name), (1, name.upper())):
            if letter not in faces:
                continue
            p = np.zeros((4, 3))
            p[:, axis] = a[axis] if side < 0 else b[axis]
            p[:, u] = np.array([a[u] + ease, b[u] - ease, b[u] - ease, a[u] + ease])
            p[:, v] = np.array([a[v] + ease, a[v] + ease, b[v] - ease, b[v] - ease])
            if side < 0:
                p = p[::-1]
            parts.append(polygon(p, _grain_uv(p, axis, along)))
    if ease > 0:
        centre = (a + b) / 2
        for axis in range(3):
            u, v = (axis + 1) % 3, (axis + 2) % 3
            for su in (-1, 1):
                for sv in (-1, 1):
                    p = np.zeros((4, 3))
                    p[:, axis] = [a[axis] + ease, b[axis] - ease, b[axis] - ease, a[axis] + ease]
                    cu, cv = (b[u] if su > 0 else a[u]), (b[v] if sv > 0 else a[v])
                    p[:, u] = [cu, cu, cu - su * ease, cu - su * ease]
                    p[:, v] = [cv - sv * ease, cv - sv * ease, cv, cv]
                    n = _normal(p)
                    if n @ (p.mean(0) - centre) < 0:
                        p = p[::-1]
                    parts.append(polygon(p, _grain_uv(p, u, along)))
        for sx in (-1, 1):
            for sy in (-1, 1):
                for sz in (-1, 1):
                    c = np.where(np.array([sx, sy, sz]) > 0, b, a)
                    e = np.array([sx, sy, sz]) * ease
                    p = np.array([c - [0, e[1], e[2]], c - [e[0], 0, e[2]], c - [e[0], e[1], 0]])
                    if _normal(p) @ (p.mean(0) - centre) < 0:
                        p = p[::-1]
                    parts.append(polygon(p, _grain_uv(p, 0, along)))
    return join(parts)


def _grain_uv(p: Array, normal_axis: int, along: int) -> Array:
    """uv with u across and v along the grain."""
    across = next(k for k in (1, 2, 0, 1) if k not in (along, normal_axis))
    lengthwise = along if along != normal_axis else next(k for k in (2, 1, 0) if k not in (normal_axis, across))
    return np.column_stack([p[:, across], p[:, lengthwise]])


@lru_cache(maxsize=64)
def _box_template(eased: bool, faces: str, along: int) -> tuple[NDArray[np.int64], NDArray[np.int64], Shape]:
    """A box whose low edge, eased low, eased high and high edge lie at 0, 1, 2 and 3: which of the four each coordinate (V, 3) is,
    and which axes u and v follow (V, 2); its normals and triangles are those of every box."""
    made = _box_part_by_part(np.zeros(3), np.full(3, 3.0), 1.0 if eased else 0.0, faces, along)
    # The same box, shifted by another amount along each axis: u and v tell whose they are.
    shift = np.array([10.0, 100.0, 1000.0])
    other = _box_part_by_part(shift, shift + 3.0, 1.0 if eased else 0.0, faces, along)
    axes = np.log10(other.uv - made.uv).round().astype(int) - 1
    return made.points.round().astype(int), axes, made


def box(low: ArrayLike, high: ArrayLike, ease: float = 0.0, faces: str = "xXyYzZ", along: int = 0) -> Shape:
    """A box with edges eased by a chamfer (m); `faces` names those made (only without easing); `along` is the axis
    that wood grain follows."""
    a, b = np.asarray(low, float), np.asarray(high, float)
    if not (b - a > 2 * ease).all():
        return _box_part_by_part(a, b, ease, faces, along)
    which, axes, made = _box_template(ease > 0, faces, along)
    points = np.take_along_axis(np.stack([a, a + ease, b - ease, b]), which, 0)
    return Shape(points, made.normals, np.take_along_axis(points, axes, 1), made.triangles)


def beam(start: ArrayLike, end: ArrayLike, width: float, depth: float, ease: float = 0.0) -> Shape:
    """A straight timber or bar between two points."""
    a, b = np.asarray(start, float), np.asarray(end, float)
    length = float(np.linalg.norm(b - a))
    x = (b - a) / length
    side = np.cross([0, 0, 1.0], x) if abs(x[2]) < 0.99 else np.array([1.0, 0, 0])
    side /= np.linalg.norm(side)
    up = np.cross(x, side)
    made = box([0, -width / 2, -depth / 2], [length, width / 2, depth / 2], ease)
    matrix = np.stack([x, side, up])
    return Shape(made.points @ matrix + a, made.normals @ matrix, made.uv, made.triangles)


def lathe(profile: list[tuple[float, float]], sides: int = 16, smooth: bool = True) -> Shape:
    """A polyline of (radius, height) turned about Z."""
    angle = np.linspace(0, 2 * np.pi, sides + 1)
    ring = np.stack([np.cos(angle), np.sin(angle)], 1)
    pr = np.asarray(profile, float)
    step = np.gradient(pr, axis=0)
    normal = np.stack([step[:, 1], -step[:, 0]], 1)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    rows = len(pr)
    p = np.concatenate([np.column_stack([ring * r, np.full(sides + 1, z)]) for r, z in pr])
    n = np.concatenate([np.column_stack([ring * a, np.full(sides + 1, b)]) for a, b in normal])
    lengths = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(pr, axis=0), axis=1))])
    uv = np.column_stack([np.tile(angle * max(pr[:, 0].max(), 1e-3), rows), np.repeat(lengths, sides + 1)])
    return Shape(p, n, uv, grid_triangles(rows, sides + 1))


def grid_triangles(rows: int, columns: int) -> NDArray[np.int64]:
    """Triangles (N, 3) over a grid of points, row after row: two for each of its squares."""
    i, j = np.meshgrid(np.arange(rows - 1), np.arange(columns - 1), indexing="ij")
    k = (i * columns + j).ravel()
    return np.concatenate([
        np.column_stack([k, k + 1, k + columns + 1]), np.column_stack([k, k + columns + 1, k + columns])
    ])  # fmt: skip


def tube(path: ArrayLike, radii: ArrayLike, sides: int = 7) -> Shape:
    """A round tube along a polyline, its rings turning with it without a twist (branches, rails). `radii` is one for all, one at each point,
    or one at each point and side (P, sides + 1)."""
    p = np.asarray(path, float)
    r = np.asarray(radii, float)
    r = np.broadcast_to(r if r.ndim == 2 else np.broadcast_to(r, len(p))[:, None], (len(p), sides + 1))
    t = np.gradient(p, axis=0)
    t /= np.maximum(np.linalg.norm(t, axis=1, keepdims=True), 1e-12)
    u = np.empty_like(p)
    u[0] = np.cross(t[0], [0.0, 0.0, 1.0] if abs(t[0, 2]) < 0.9 else [1.0, 0.0, 0.0])
    u[0] /= np.linalg.norm(u[0])
    for k in range(1, len(p)):
        across = u[k - 1] - t[k] * (u[k - 1] @ t[k])
        u[k] = across / max(float(np.sqrt(across @ across)), 1e-12)
    v = np.cross(t, u)
    angle = np.linspace(0, 2 * np.pi, sides + 1)
    n = np.cos(angle)[None, :, None] * u[:, None] + np.sin(angle)[None, :, None] * v[:, None]
    points = p[:, None] + r[..., None] * n
    length = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
    uv = np.stack(np.broadcast_arrays(angle[None] * max(float(r.mean()), 0.01), length[:, None]), -1)
    return Shape(points.reshape(-1, 3), n.reshape(-1, 3), uv.reshape(-1, 2), grid_triangles(len(p), sides + 1))


def rings(radii: Array, angles: Array, height: Array) -> Shape:
    """Ground over rings about zero: `radii` (R,) in m, `angles` (A,) in radians, `height` (R, A); facing up, smooth; uv in metres, as those
    of all level things. A first radius of 0 is its middle."""
    x, y = radii[:, None] * np.cos(angles), radii[:, None] * np.sin(angles)
    points = np.stack([x, y, height], -1)
    normal = np.cross(np.gradient(points, axis=0), np.gradient(points, axis=1))
    flat = np.linalg.norm(normal, axis=-1, keepdims=True) < 1e-9
    normal = np.where(flat, [0.0, 0.0, 1.0], normal)
    normal *= np.sign(normal[..., 2:]) / np.linalg.norm(normal, axis=-1, keepdims=True)
    triangles = grid_triangles(len(radii), len(angles))[:, ::-1]
    if radii[0] == 0.0:  # the middle is one point: half of the first ring's triangles have no area
        triangles = triangles[~((triangles < len(angles)).sum(1) == 2)]
    return Shape(points.reshape(-1, 3), normal.reshape(-1, 3), np.stack([x, -y], -1).reshape(-1, 2), triangles)


def heightfield(x: Array, y: Array, z: Array) -> Shape:
    """A surface over a grid: x (N,), y (M,), z (M, N)."""
    gx, gy = np.meshgrid(x, y)
    dzy, dzx = np.gradient(z, y, x)
    n = np.dstack([-dzx, -dzy, np.ones_like(z)])
    n /= np.linalg.norm(n, axis=2, keepdims=True)
    p = np.dstack([gx, gy, z])
    return Shape(
        p.reshape(-1, 3), n.reshape(-1, 3), np.column_stack([gx.ravel(), -gy.ravel()]), grid_triangles(len(y), len(x))
    )


def pebble(rng: np.random.Generator, detail: int = 6) -> Shape:
    """A rounded stone about 1 m across."""
    v = np.linspace(-np.pi / 2, np.pi / 2, detail)
    u = np.linspace(0, 2 * np.pi, 2 * detail + 1)
    bump = rng.normal(size=(3, 3))
    d = np.stack(
        [np.cos(v)[:, None] * np.cos(u), np.cos(v)[:, None] * np.sin(u), np.sin(v)[:, None] * np.ones_like(u)], -1
    )
    radius = 0.5 * (1 + 0.12 * np.sin(2.1 * d @ bump).sum(-1) / 1.7)
    p = (d * radius[..., None]).reshape(-1, 3) * [1, rng.uniform(0.65, 0.95), rng.uniform(0.4, 0.65)]
    n = d.reshape(-1, 3) / [1, 0.8, 0.5]
    n /= np.linalg.norm(n, axis=1, keepdims=True)
    uv = np.stack(np.broadcast_arrays(u[None] / 6, v[:, None] / 3), -1).reshape(-1, 2)
    return Shape(p, n, uv, grid_triangles(detail, 2 * detail + 1))


def of_triangles(points: ArrayLike, triangles: ArrayLike, uv: ArrayLike | None = None) -> Shape:
    """Flat triangles (T, 3) over points (V, 3), each with corners of its own; uv (V, 2) in metres, else laid by box."""
    p = np.asarray(points, float)[np.asarray(triangles, int)]
    n = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    n /= np.maximum(np.linalg.norm(n, axis=1, keepdims=True), 1e-30)
    if uv is None:
        axis = np.abs(n).argmax(1)
        u = np.where(axis == 0, 1, 0)
        v = np.where(axis == 2, 1, 2)
        laid = np.stack(
            [np.take_along_axis(p, u[:, None, None], 2)[..., 0], -np.take_along_axis(p, v[:, None, None], 2)[..., 0]], 2
        )
    else:
        laid = np.asarray(uv, float)[np.asarray(triangles, int)]
    return Shape(p.reshape(-1, 3), np.repeat(n, 3, axis=0), laid.reshape(-1, 2), np.arange(3 * len(p)).reshape(-1, 3))
