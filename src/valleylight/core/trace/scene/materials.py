"""From the stage's materials to the table, the pictures and the emitting triangles that kernels read."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from valleylight.core.colour.rgb import LUMINANCE, srgb_decode
from valleylight.core.stage import metals
from valleylight.core.stage.model import SMOOTH, Material, Texture
from valleylight.core.together import together
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.lights import lamplight
from valleylight.core.trace.textures.courses import BONDS
from valleylight.core.trace.textures.pattern import NAMES

F32 = np.float32
#: Neutral reflectance of white-card mode.
CARD_REFLECTANCE = 0.5
#: Ways of laying by the numbers of textures.laying.
WAYS = ("", "uv", "box", "plan", "sides")
HERE = np.zeros(3)
#: Pixels of a picture along each side that become one of its reduced copy.
REDUCED = 16


def as_card(materials: tuple[Material, ...]) -> tuple[Material, ...]:
    """Materials of the white-card mode: all but glass and lights are matt grey."""
    card = Material(base=(CARD_REFLECTANCE,) * 3, roughness=1.0, specular=0.0)
    return tuple(
        m if m.thin_glass or m.solid_glass or m.emits
        else replace(card, name=m.name, alpha_texture=m.alpha_texture, alpha_cutoff=m.alpha_cutoff, leaves=m.leaves, laying=m.laying, uv_m=m.uv_m)
        for m in materials
    )  # fmt: skip


def kind_of(m: Material) -> int:
    """Kind of surface a material makes, see layout."""
    if m.solid_glass:
        return layout.SOLID
    if m.thin_glass:
        return layout.PANE if m.roughness <= SMOOTH else layout.FROSTED
    return layout.SURFACE


def passes_light(m: Material) -> bool:
    """True for what a shadow ray may pass: panes, solid glass, cut-outs."""
    return kind_of(m) in (layout.PANE, layout.SOLID) or m.alpha_texture >= 0 or m.scarce or m.leaves < 1


def material_table(materials: tuple[Material, ...], origin: NDArray[np.float64] = HERE) -> NDArray[np.float32]:
    """Rows (M, 75) for the kernels, of a stage about an origin (3,) in metres of the model."""
    return np.stack([_row(m, origin) for m in materials])


def _row(m: Material, origin: NDArray[np.float64]) -> NDArray[np.float32]:
    row = np.zeros(layout.MATERIAL_WIDTH, F32)
    row[0:3] = np.clip(m.base, 0, None)
    row[layout.ROUGH], row[layout.METAL], row[layout.GLOSS] = m.roughness, m.metal, m.specular
    if m.conductor is not None:
        normal, edge = (np.array(v) for v in metals.colour(m.conductor))
        row[0:3], row[layout.METAL] = normal, 1.0
        # Schlick's curve less a c (1 - c)^6, with a such that the curve meets the true reflectance near grazing.
        c = metals.EDGE_COSINE
        row[layout.three(layout.EDGE)] = (normal + (1 - normal) * (1 - c) ** 5 - edge) / (c * (1 - c) ** 6)
    row[layout.INDEX] = max(m.index, 1.0001)
    row[layout.KIND] = kind_of(m)
    tint = np.clip(m.tint, 1e-6, 1)
    row[layout.three(layout.TINT)] = tint
    row[layout.three(layout.ABSORB)] = -np.log(tint) / max(m.tint_depth_m, 1e-6)
    row[layout.three(layout.EMISSION)] = m.emission
    row[layout.BASE_TEXTURE], row[layout.RELIEF_TEXTURE], row[layout.RELIEF] = (
        m.base_texture, m.relief_texture if m.relief > 0 else -1, m.relief,
    )  # fmt: skip
    row[layout.SCARCE], row[layout.UNCOVERED], row[layout.LEAVES] = float(m.scarce), float(m.uncovered), m.leaves
    row[layout.SWARD] = float(m.sward)
    row[layout.ROUGH_TEXTURE], row[layout.ALPHA_TEXTURE], row[layout.CUTOFF] = (
        m.rough_texture, m.alpha_texture, m.alpha_cutoff,
    )  # fmt: skip
    row[layout.EMISSION_TEXTURE] = m.emission_texture
    row[layout.THROUGH] = m.translucency
    row[layout.LIT] = 1.0 if m.emits else 0.0
    row[layout.DIFFUSE_ROUGH] = m.diffuse_roughness
    row[layout.CLEAR], row[layout.CLEAR_ROUGH] = m.coat, m.coat_roughness
    row[layout.three(layout.SHEEN)], row[layout.SHEEN_ROUGH] = m.sheen, max(m.sheen_roughness, 0.05)
    row[layout.three(layout.BACK)] = -1.0 if m.through_tint is None else m.through_tint
    _lay(row, m, origin)
    row[layout.PATTERN], row[layout.PATTERN_SIZE] = NAMES.index(m.pattern), max(m.pattern_m, 1e-4)
    row[layout.three(layout.PATTERN_TINT)] = m.pattern_tint
    row[layout.BUMP] = m.bump_m if m.pattern != "none" else 0.0
    row[layout.WEATHER] = m.weathering
    row[layout.LAYERED] = float(
        m.diffuse_roughness > 0 or m.conductor is not None or m.coat > 0 or max(m.sheen) > 0
        or (m.through_tint is not None and m.translucency > 0)
    )  # fmt: skip
    row[layout.DETAIL] = float(m.rough_texture >= 0 or m.pattern != "none" or m.weathering > 0 or m.courses is not None)
    return row


def _lay(row: NDArray[np.float32], m: Material, origin: NDArray[np.float64]) -> None:
    """Fill in how pictures and units lie."""
    row[layout.TILE], row[layout.TILE + 1] = 1.0, 1.0
    if m.laying is None:
        return
    turn = np.radians(m.laying.turn_deg)
    row[layout.LAID] = WAYS.index(m.laying.by)
    row[layout.LAY_COS], row[layout.LAY_SIN] = np.cos(turn), -np.sin(turn)
    row[layout.LAY_SHIFT : layout.LAY_SHIFT + 2] = m.laying.shift_m
    row[layout.TILE], row[layout.TILE + 1] = m.laying.tile_m, m.laying.tile_height_m or m.laying.tile_m
    row[layout.UV_M] = m.uv_m
    row[layout.three(layout.ZERO_AT)] = origin
    c = m.courses
    if c is not None:
        row[layout.BOND] = BONDS.index(c.bond)
        row[layout.UNIT_LENGTH], row[layout.UNIT_HEIGHT] = c.length_m, c.height_m
        row[layout.JOINT], row[layout.RECESS] = c.joint_m, c.recess_m
        row[layout.three(layout.JOINT_COLOUR)] = c.joint_colour
        row[layout.three(layout.UNIT_TINT)] = -1.0 if c.tint is None else c.tint
        row[layout.SHADE], row[layout.UNEVEN] = c.shade, c.uneven


class Reduced:
    """Reduced copies of pictures, kept as long as the pictures are used."""

    def __init__(self) -> None:
        self._kept: dict[tuple[int, bool], tuple[Texture, NDArray[np.uint8]]] = {}

    def __call__(self, texture: Texture, coloured: bool, make: Callable[[], NDArray[np.uint8]]) -> NDArray[np.uint8]:
        key = (id(texture), coloured)
        if key not in self._kept:
            self._kept[key] = (texture, make())  # the texture is kept with it, so that its number stays its own
        return self._kept[key][1]

    def keep_only(self, textures: Sequence[Texture]) -> None:
        """Let go of the copies of all others."""
        numbers = {id(t) for t in textures}
        self._kept = {key: held for key, held in self._kept.items() if key[0] in numbers}


def pictures(textures: Sequence[Texture], colours: Collection[int], reduced: Reduced) -> dict[str, object]:
    """All textures in one flat array, where each stands in it, (2 X, 3) offset, width, height, and the decoding tables.

    The second half of the rows are reduced copies, for what is seen after a rough bounce: there a picture's detail is lost,
    and fetching it would cost more than the rest of the surface. `colours` are the numbers of those that hold colours. Those made before are taken from `reduced`.
    """
    codes = np.arange(256) / 255.0
    tables = {"decode": srgb_decode(codes).astype(F32), "linear": codes.astype(F32)}
    if not textures:
        return {"pixels": np.zeros(3, np.uint8), "texture_info": np.zeros((2, 3), np.int64), **tables}
    pictures = [t.pixels for t in textures]

    def small(k: int) -> NDArray[np.uint8]:
        table = tables["decode" if k in colours else "linear"]
        return reduced(textures[k], k in colours, lambda: _reduced(textures[k].pixels, table))

    pictures += together(small, range(len(textures)))
    flat = [p.reshape(-1) for p in pictures]
    offsets = np.concatenate([[0], np.cumsum([len(f) for f in flat])[:-1]])
    info = np.array([(o, p.shape[1], p.shape[0]) for o, p in zip(offsets, pictures, strict=True)], np.int64)
    return {"pixels": np.concatenate(flat), "texture_info": info, **tables}


def _reduced(picture: NDArray[np.uint8], decode: NDArray[np.float32]) -> NDArray[np.uint8]:
    """A picture (H, W, 3) with each REDUCED x REDUCED block replaced by its mean, taken of what its codes stand for (256,)."""
    means = [np.asarray(Image.fromarray(decode[picture[..., c]]).reduce(REDUCED)) for c in range(3)]
    halves = (decode[1:] + decode[:-1]) / 2
    return np.searchsorted(halves, np.stack(means, -1)).astype(np.uint8)


class Emitters(NamedTuple):
    """Emitting triangles (E, 16), their numbers (E,) where they cast shadows (else -1), their cumulated share (1, E + 1) by
    luminance times area, and that total."""

    records: NDArray[np.float32]
    triangle: NDArray[np.int64]
    cdf: NDArray[np.float64]
    total_cd: float


def emitters(triangles: NDArray[np.float32], materials: NDArray[np.float32], silent: Collection[int] = ()) -> Emitters:
    """What of the triangles (T, 32) shines by itself and on others; objects by number that are `silent` only look so."""
    shines = materials[triangles[:, layout.TRIANGLE_MATERIAL].astype(int), layout.LIT] > 0
    if silent:
        shines &= ~np.isin(triangles[:, layout.TRIANGLE_OBJECT].astype(int), list(silent))
    numbers = np.flatnonzero(shines)
    which = triangles[numbers]
    if not len(which):
        return Emitters(lamplight.NO_EMITTERS, np.zeros(0, np.int64), np.zeros((1, 1)), 1.0)
    # Of those that cast no shadow the number is kept, but no ray has to meet them.
    shadeless = which[:, layout.TRIANGLE_SHADES] == 0.0
    numbers[shadeless] = -2 - numbers[shadeless]
    normal = np.cross(
        which[:, layout.three(layout.TRIANGLE_EDGE_1)],
        which[:, layout.three(layout.TRIANGLE_EDGE_2)],
    )
    twice = np.maximum(np.linalg.norm(normal, axis=1), 1e-20)
    rgb = materials[which[:, layout.TRIANGLE_MATERIAL].astype(int), layout.three(layout.EMISSION)]
    power = (rgb @ LUMINANCE) * twice / 2
    out = np.zeros((len(which), layout.EMITTER_WIDTH), F32)
    out[:, layout.EMITTER_CORNER : layout.EMITTER_CORNER + 9] = which[
        :, layout.TRIANGLE_CORNER : layout.TRIANGLE_CORNER + 9
    ]
    out[:, layout.three(layout.EMITTER_LIGHT)] = rgb
    out[:, layout.three(layout.EMITTER_NORMAL)] = normal / twice[:, None]
    out[:, layout.EMITTER_AREA] = twice / 2
    cdf = np.concatenate([[0.0], np.cumsum(power)]) / power.sum()
    return Emitters(out, numbers, cdf[None, :], float(power.sum()))
