"""Procedural textures, tileable, with relief where the lens comes near."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter
from scipy.sparse import csr_array
from scipy.spatial import cKDTree

Array = NDArray[np.float64]


def noise(size: tuple[int, int], cells: tuple[int, int], seed: int, octaves: int = 5, gain: float = 0.5) -> Array:
    """Tileable fractal value noise of shape `size`, about -1 to 1; `cells` are lattice cells of the first octave."""
    rng = np.random.default_rng(seed)
    total, amplitude, norm = np.zeros(size), 1.0, 0.0
    for octave in range(octaves):
        cy, cx = cells[0] << octave, cells[1] << octave
        if cy > size[0] or cx > size[1]:
            break
        lattice = rng.uniform(-1, 1, (cy, cx))
        total += amplitude * (_enlarge(size[1], cx) @ (_enlarge(size[0], cy) @ lattice).T).T
        norm += amplitude
        amplitude *= gain
    return total / norm * 1.6


@lru_cache(maxsize=64)
def _enlarge(size: int, cells: int) -> csr_array:
    """Matrix (size, cells) of periodic cubic interpolation (Catmull-Rom)."""
    place = np.arange(size) * cells / size
    k = np.floor(place).astype(int)
    t = place - k
    weights = (
        ((-0.5 * t + 1.0) * t - 0.5) * t, (1.5 * t - 2.5) * t * t + 1.0, ((-1.5 * t + 2.0) * t + 0.5) * t,
        (0.5 * t - 0.5) * t * t,
    )  # fmt: skip
    columns = np.stack([(k + offset - 1) % cells for offset in range(4)], 1)
    rows = np.repeat(np.arange(size), 4)
    return csr_array((np.stack(weights, 1).ravel(), (rows, columns.ravel())), shape=(size, cells))


def relief(height: Array, depth_px: float) -> NDArray[np.uint8]:
    """Normal map (H, W, 3) uint8 of a height map; `depth_px` is the height of 1 in pixels."""
    dx = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) / 2 * depth_px
    dy = (np.roll(height, -1, 0) - np.roll(height, 1, 0)) / 2 * depth_px
    n = np.dstack([-dx, dy, np.ones_like(dx)])
    n /= np.linalg.norm(n, axis=2, keepdims=True)
    return np.asarray(np.round((n * 0.5 + 0.5) * 255), np.uint8)


def coloured(value: Array, stops: list[tuple[float, tuple[int, int, int]]]) -> Array:
    """Map values 0 to 1 through colour stops (sRGB 0 to 255); shape (H, W, 3) float."""
    places = [s[0] for s in stops]
    return np.dstack([np.interp(value, places, [s[1][c] for s in stops]) for c in range(3)])


def to_bytes(picture: NDArray[np.floating]) -> NDArray[np.uint8]:
    return np.asarray(np.clip(np.round(picture), 0, 255), np.uint8)


def wood(seed: int, dark: tuple[int, int, int], light: tuple[int, int, int], size: int = 1024) -> NDArray[np.uint8]:
    """Sawn boards seen flat: grain runs down the picture (v), with slow cathedral figure, fibre and pores."""
    warp = noise((size, size), (1, 4), seed, 2) * 0.55 + noise((size, size), (2, 9), seed + 1, 2) * 0.12
    across = np.arange(size)[None, :] / size
    rings = np.sin(2 * np.pi * (across * 19 + warp * 2.2))
    rings = np.sign(rings) * np.abs(rings) ** 1.5
    fibre = noise((size, size), (3, 220), seed + 2, 2, 0.7)
    pores = np.clip(noise((size, size), (10, 256), seed + 3, 2) - 0.5, 0, 1)
    broad = noise((size, size), (1, 7), seed + 4, 3)
    tone = 0.55 + 0.10 * rings + 0.14 * fibre + 0.16 * broad - 0.5 * pores
    return to_bytes(coloured(np.clip(tone, 0, 1), [(0.0, dark), (1.0, light)]))


def limewash(seed: int, size: int = 1024) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Brushed limewash: pale with clouds and faint strokes; colour and relief."""
    clouds = noise((size, size), (3, 3), seed, 6, 0.6)
    strokes = noise((size, size), (40, 12), seed + 1, 3)
    tone = 0.62 + 0.16 * clouds + 0.05 * strokes
    colour = coloured(np.clip(tone, 0, 1), [(0, (205, 197, 182)), (1, (240, 235, 224))])
    height = 0.6 * noise((size, size), (12, 12), seed + 2, 5) + 0.25 * strokes
    return to_bytes(colour), relief(gaussian_filter(height, 1.0, mode="wrap"), 5.0)


def stone_face(seed: int, size: int = 1024) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Broken faces of a grey-brown stone, without joints: beds, grains, iron stains and lichen; colour and relief."""
    beds, grain = noise((size, size), (14, 3), seed, 6, 0.6), noise((size, size), (48, 48), seed + 1, 5, 0.65)
    broad, stain = noise((size, size), (2, 2), seed + 2, 4, 0.5), noise((size, size), (5, 5), seed + 3, 6, 0.6)
    tone = np.clip(0.5 + 0.26 * broad + 0.16 * beds + 0.16 * grain, 0, 1)
    colour = coloured(tone, [(0, (84, 79, 72)), (0.35, (116, 109, 98)), (0.7, (144, 135, 119)), (1, (172, 162, 143))])
    rust = np.clip((stain - 0.35) * 1.6, 0, 0.6)[..., None]
    colour = colour * (1 - rust) + np.array([138, 106, 72.0]) * (0.8 + 0.2 * grain[..., None]) * rust
    lichen = np.clip((noise((size, size), (9, 9), seed + 4, 5, 0.55) - 0.55) * 4.0, 0, 0.75)[..., None]
    colour = colour * (1 - lichen) + np.array([158, 156, 128.0]) * (0.9 + 0.15 * grain[..., None]) * lichen
    height = 0.7 * beds + 0.45 * grain + 0.25 * stain
    return to_bytes(colour), relief(gaussian_filter(height, 1.0, mode="wrap"), 7.0)


def mortar(seed: int, size: int = 512) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Lime mortar with coarse sand, darkened in places; colour and relief."""
    sand, broad = noise((size, size), (64, 64), seed, 4, 0.7), noise((size, size), (3, 3), seed + 1, 5)
    tone = np.clip(0.5 + 0.22 * sand + 0.25 * broad, 0, 1)
    return to_bytes(coloured(tone, [(0, (118, 110, 97)), (1, (176, 167, 150))])), relief(
        gaussian_filter(sand, 0.8, mode="wrap"), 4.0
    )


def slate(seed: int, size: int = 512) -> NDArray[np.uint8]:
    grain = noise((size, size), (4, 10), seed, 6, 0.6)
    return to_bytes(coloured(0.5 + 0.4 * grain, [(0, (52, 56, 62)), (0.6, (82, 86, 92)), (1, (108, 108, 106))]))


def flagstone(seed: int, size: int = 1024) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Riven stone slabs, for any cut."""
    a, b = noise((size, size), (4, 4), seed, 7, 0.6), noise((size, size), (30, 30), seed + 1, 4)
    colour = coloured(0.5 + 0.3 * a + 0.15 * b, [(0, (112, 106, 98)), (0.55, (150, 144, 133)), (1, (178, 171, 158))])
    return to_bytes(colour), relief(gaussian_filter(a + 0.25 * b, 1.0, mode="wrap"), 6.0)


def meadow(seed: int, summer: bool, size: int = 1024) -> NDArray[np.uint8]:
    a, b = noise((size, size), (3, 3), seed, 7, 0.65), noise((size, size), (60, 60), seed + 1, 4, 0.7)
    v = np.clip(0.5 + 0.3 * a + 0.3 * b, 0, 1)
    if summer:
        return to_bytes(coloured(v, [(0, (44, 56, 24)), (0.5, (74, 88, 38)), (1, (112, 118, 60))]))
    return to_bytes(coloured(v, [(0, (74, 66, 36)), (0.5, (104, 96, 54)), (1, (142, 130, 80))]))


def gravel(seed: int, size: int = 1024) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    rng = np.random.default_rng(seed)
    c = rng.uniform(0, 1, (9000, 2))
    tree = cKDTree(c, boxsize=1.0)
    y, x = np.mgrid[0:size, 0:size] / size
    d, k = tree.query(np.stack([x, y], -1).reshape(-1, 2), k=2, workers=-1)
    edge = np.clip((d[:, 1] - d[:, 0]) / 0.006, 0, 1).reshape(size, size)
    tone = rng.uniform(0.1, 1, len(c))[k[:, 0]].reshape(size, size)
    colour = coloured(tone, [(0, (96, 90, 82)), (1, (168, 160, 148))]) * (0.5 + 0.5 * edge[..., None])
    return to_bytes(colour), relief(gaussian_filter(edge, 1.0, mode="wrap"), 4.0)


def bark(seed: int, size: int = 512) -> NDArray[np.uint8]:
    v = np.abs(noise((size, size), (4, 14), seed, 5, 0.6))
    return to_bytes(coloured(np.clip(v * 1.4, 0, 1), [(0, (40, 34, 28)), (0.4, (82, 74, 64)), (1, (128, 118, 104))]))


def cloth(seed: int, base: tuple[int, int, int], size: int = 512) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    y, x = np.mgrid[0:size, 0:size] * 2 * np.pi / size * 64
    weave = 0.5 + 0.25 * np.sin(x) * np.cos(y / 2) + 0.25 * np.sin(y) * np.cos(x / 2)
    tone = 0.82 + 0.14 * weave + 0.08 * noise((size, size), (8, 8), seed, 5)
    return to_bytes(np.array(base) * tone[..., None]), relief(weave, 2.0)


def spines(seed: int) -> NDArray[np.uint8]:
    """A palette of 16 x 16 book cloths in cells of 8 x 8 pixels, a little worn."""
    rng = np.random.default_rng(seed)
    base = np.array([
        (104, 40, 34), (128, 62, 40), (58, 70, 84), (42, 56, 66), (70, 84, 62), (150, 128, 88), (176, 158, 124),
        (196, 184, 160), (92, 74, 58), (60, 50, 46), (134, 96, 58), (82, 52, 60), (112, 116, 112), (206, 198, 180),
        (46, 64, 58), (148, 74, 44),
    ], float)  # fmt: skip
    cells = base[rng.integers(0, len(base), (16, 16))] * rng.uniform(0.8, 1.15, (16, 16, 1))
    return to_bytes(np.kron(cells, np.ones((8, 8, 1))))


def leaf_spray(
    seed: int, dark: tuple[int, int, int], light: tuple[int, int, int], size: int = 256
) -> NDArray[np.uint8]:
    """A feathered leaf on a card, RGBA: pairs of pointed leaflets along a bent rib, one at the tip; clear between."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:size, 0:size] / (size - 1.0)
    tone, cover = np.zeros((size, size)), np.zeros((size, size), bool)

    def leaflet(px: float, py: float, angle: float, length: float, width: float) -> None:
        along = (x - px) * np.cos(angle) + (y - py) * np.sin(angle)
        across = -(x - px) * np.sin(angle) + (y - py) * np.cos(angle)
        t = np.clip(along / length, 0, 1)
        inside = (along > 0) & (along < length) & (np.abs(across) < width * np.sin(np.pi * t**0.8) * (1 - 0.25 * t))
        vein = 0.25 * np.exp(-((across / (0.08 * width)) ** 2)) + 0.12 * np.cos(
            along / length * 60 + np.abs(across) / width * 4
        )
        tone[inside] = (rng.uniform(0.3, 0.8) + vein)[inside]
        cover[inside] = True

    def rib(t: float) -> tuple[float, float]:
        return 0.5 + 0.06 * np.sin(3 * t), 0.98 - 0.8 * t

    for k in range(6):
        t = 0.14 + 0.14 * k
        px, py = rib(t)
        long = 0.36 * (1 - 0.35 * abs(t - 0.45))
        for side in (-1, 1):
            leaflet(px, py, -np.pi / 2 + side * rng.uniform(0.95, 1.15), long, 0.075)
    leaflet(*rib(0.95), -np.pi / 2 + 0.1, 0.24, 0.07)
    t = np.clip((0.98 - y) / 0.8, 0, 1)
    stalk = (np.abs(x - 0.5 - 0.06 * np.sin(3 * t)) < 0.008) & (y > 0.2)
    tone[stalk], cover[stalk] = 0.9, True
    rgb = coloured(np.clip(tone, 0, 1), [(0, dark), (1, light)])
    return np.dstack([np.round(rgb), np.where(cover, 255, 0)]).astype(np.uint8)
