"""Cut-outs laid into a picture: each in the light of its place, behind what stands nearer, with its shadows under it.

What is laid is worked out once for a film's passes, per light group, and then taken to whatever is made of the film: the pictures of its
groups (`on_film`), or a balanced sum (`on_sum`). So cut-outs and their shadows follow the levels of lights as all else does.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter

from valleylight.core.colour.rgb import LUMINANCE, srgb_decode
from valleylight.core.compose import kernels
from valleylight.core.compose.light import AXES, HEIGHTS, LightThere, Sunlight, Veil
from valleylight.core.compose.sprite import Sprite
from valleylight.core.film import columns
from valleylight.core.film.film import MASK_RANKS, Film, Level, rgb_of
from valleylight.core.project.cutout import CutOut
from valleylight.core.together import together
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.camera import project_point
from valleylight.core.treatments.run import in_bands

Array = NDArray[np.floating[Any]]
CLEAR = Veil()
#: Which sprite a cut-out shows to someone in a direction in plan.
Looks = Callable[[CutOut, tuple[float, float]], Sprite]
#: A card may lie so far behind the ground it stands on, in m and as a share of its distance, and still be seen.
SLACK_M, SLACK_SHARE = 0.04, 0.002
#: Reach of the dark under the feet, as a share of the height.
REACH = 0.045
#: A level surface counts as a mirror where its normal is as upright and as much of its light is reflected, over a few pixels.
UPRIGHT, MIRRORS = 0.93, 0.2
WATER_INDEX = 1.33
_LUMA = LUMINANCE.astype(np.float32)
#: Below so many samples of a pixel what is worked out from its light is taken from its surroundings.
FEW = 24
OWN_NAME = "Cut-outs"


@dataclass(frozen=True)
class Patch:
    """A part of a picture that begins at (left, top): alpha (h, w), light times alpha (h, w, G, 3) in cd/m2 and distance (h, w) in m;
    `behind` is the share of what it covers that it takes away (a reflection takes the mirror's alone)."""

    left: int
    top: int
    alpha: Array
    light: Array
    depth: Array | None
    behind: Array


@dataclass(frozen=True)
class Laid:
    """What cut-outs do to a picture. `kept` holds for each group the share (H, W) of its light that their shadows leave; groups whose
    light casts none share one."""

    kept: tuple[Array, ...]
    patches: tuple[Patch, ...]
    group_names: tuple[str, ...]

    def on_film(self, film: Film) -> Film:
        """The film with everything laid on its groups' pictures, its distances and its masks; the film itself is left alone."""
        clean = {}
        for g, (name, picture) in enumerate(film.groups.items()):
            made = np.asarray(picture * self.kept[g][..., None], np.float32)
            for p in self.patches:
                _over(made, p, p.light[:, :, g])
            clean[name] = made
        return self.on_passes(replace(film, clean=clean))

    def on_sum(self, linear: Array, film: Film, gains: Mapping[str, Level]) -> Array:
        """The same on a balanced picture (H, W, 3), of whose groups the film tells the shares."""
        factors = np.array([rgb_of(gains.get(name, 1.0)) for name in film.group_names], np.float32)
        made = np.asarray(linear * _shares(film, factors, self.kept), np.float32)
        for p in self.patches:
            _over(made, p, np.einsum("hwgc,gc->hwc", p.light, factors))
        return made

    def on_passes(self, film: Film) -> Film:
        """The film whose distances and masks know the cut-outs."""
        solid = [p for p in self.patches if p.depth is not None]
        if not solid:
            return film
        passes, masks = film.auxiliary.copy(), film.masks.copy()
        objects, surfaces = film.mask_names
        number = len(objects) + 1
        for p in solid:
            assert p.depth is not None
            rows = slice(p.top, p.top + p.alpha.shape[0])
            part = slice(p.left, p.left + p.alpha.shape[1])
            there = p.alpha > 0.5
            counts = film.counts[rows, part][there]
            far = p.depth[there]
            at = passes[rows, part]
            old = at[there]
            sight = film.settings.get("camera")
            if sight is not None:
                ways = _sights(np.asarray(sight), film.size, p)[there]
                old[:, columns.POSITION] = (np.asarray(sight)[:3] + ways * far[:, None]) * counts[:, None]
                old[:, columns.NORMAL] = -ways * counts[:, None]  # a card faces the lens
            old[:, columns.PASS_DEPTH], old[:, columns.PASS_HITS] = far * counts, counts
            old[:, columns.PASS_BEYOND] = 0.0
            at[there] = old
            if masks.size:
                held = masks[rows, part, 0]
                mine = np.zeros((int(there.sum()), MASK_RANKS, 2), np.float32)
                mine[:, 0, 0], mine[:, 0, 1] = number, counts
                held[there] = mine
        return replace(film, auxiliary=passes, masks=masks, mask_names=((*objects, OWN_NAME), surfaces))


def _over(picture: Array, p: Patch, light: Array) -> None:
    """Porter and Duff's `over`: what is laid, and what it leaves of what was there."""
    part = picture[p.top : p.top + p.alpha.shape[0], p.left : p.left + p.alpha.shape[1]]
    part *= (1 - p.behind)[..., None]
    part += light


def _sights(camera: NDArray[np.float64], size: tuple[int, int], p: Patch) -> NDArray[np.float64]:
    """Directions of length 1 (h, w, 3) of the sights through a patch's pixels."""
    width, height = size
    rows, across = p.alpha.shape
    x = (2 * (p.left + np.arange(across) + 0.5) / width - 1) * camera[layout.CAMERA_HALF_WIDTH] + camera[
        layout.CAMERA_SHIFT_X
    ]
    y = (1 - 2 * (p.top + np.arange(rows) + 0.5) / height) * camera[layout.CAMERA_HALF_HEIGHT] + camera[
        layout.CAMERA_SHIFT_Y
    ]
    ways = (
        camera[layout.three(layout.CAMERA_FORWARD)]
        + x[None, :, None] * camera[layout.three(layout.CAMERA_RIGHT)]
        + y[:, None, None] * camera[layout.three(layout.CAMERA_UP)]
    )
    return np.asarray(ways / np.linalg.norm(ways, axis=-1, keepdims=True))


def _shares(film: Film, factors: Array, kept: Sequence[Array]) -> Array:
    """What shadows leave of a balanced picture (H, W, 3): the groups' shares, by their light, averaged over a few pixels while that is
    noisy."""
    if all(k is kept[0] for k in kept[1:]):
        return kept[0][..., None]
    left = np.zeros((*kept[0].shape, 3), np.float32)
    whole = np.zeros_like(left)
    for picture, factor, share in zip(film.groups.values(), factors, kept, strict=True):
        light = picture * factor
        if film.samples < FEW:
            light = uniform_filter(light, (7, 7, 0))
        whole += light
        left += light * share[..., None]
    return np.asarray(left / np.maximum(whole, 1e-9), np.float32)


def laid(
    seen: SeenOfFilm,
    cutouts: Sequence[CutOut],
    lights: Sequence[LightThere],
    looks: Looks,
    sun: Sunlight | None,
    veil: Veil = CLEAR,
) -> Laid:
    """What cut-outs do to a film's picture. `lights` is what was measured at each cut-out, `looks` gives their sprites; `veil` is the
    air before what is far."""
    film, camera, origin = seen.film, seen.camera, seen.origin
    cards = [
        _Carded(c, there, np.array(c.place) - origin, looks) for c, there in zip(cutouts, lights, strict=True)
    ]  # fmt: skip
    cards.sort(key=lambda c: -float(np.linalg.norm(c.feet - camera[layout.three(layout.CAMERA_PLACE)])))
    kept = _shadows(seen, cards, sun)
    patches: list[Patch] = []
    for made in together(lambda c: _pictured(seen, c, sun, veil), cards):
        patches += made
    return Laid(kept, tuple(patches), film.group_names)


@dataclass(frozen=True)
class SeenOfFilm:
    """What laying asks of a film, worked out once: passes, places (H, W, 3) about `origin` (3,), the record of its lens, how far the
    sun shines on what is seen (H, W), the level mirror, and the balls (N, 4) about what is seen in each tile (N, 2)."""

    film: Film
    passes: dict[str, Array]
    place: Array
    depth: Array
    normal: Array
    camera: NDArray[np.float64]
    origin: NDArray[np.float64]
    sunlit: Array | None
    mirror: tuple[float, Array] | None
    tiles: NDArray[np.int64]
    balls: Array

    @property
    def lens(self) -> NDArray[np.float64]:
        return np.asarray(self.camera[layout.three(layout.CAMERA_PLACE)])


def seen_of_film(
    film: Film, camera: NDArray[np.float64], origin: NDArray[np.float64], sun: Sunlight | None
) -> SeenOfFilm:
    """What laying asks of a film. `camera` is the record of its lens about `origin` (3,)."""
    passes = film.passes
    place = np.ascontiguousarray(passes["position"] - origin.astype(np.float32))
    depth, normal = np.ascontiguousarray(passes["depth"]), np.ascontiguousarray(passes["normal"])
    sunlit = _sunlit(film, passes, sun) if sun is not None and "sun" in film.group_names else None
    return SeenOfFilm(
        film, passes, place, depth, normal, camera, origin, sunlit, _mirror(passes, film), *_balls(place, depth)
    )


def _balls(place: Array, depth: Array) -> tuple[NDArray[np.int64], Array]:
    """Left and top of each tile in which something is met (N, 2), and the ball about its places (N, 4: middle, radius)."""
    size = kernels.TILE
    rows, across = -(-depth.shape[0] // size), -(-depth.shape[1] // size)
    pad = ((0, rows * size - depth.shape[0]), (0, across * size - depth.shape[1]))
    met = np.pad(np.isfinite(depth), pad)
    at = np.pad(place, (*pad, (0, 0)))

    def by_tile(values: Array, of: Callable[..., Array]) -> Array:
        return of(values.reshape(rows, size, across, size, 3), axis=(1, 3)).reshape(-1, 3)

    low = by_tile(np.where(met[..., None], at, np.inf), np.min)
    high = by_tile(np.where(met[..., None], at, -np.inf), np.max)
    some = np.isfinite(low[:, 0])
    j, i = np.meshgrid(np.arange(rows) * size, np.arange(across) * size, indexing="ij")
    tiles = np.column_stack([i.ravel(), j.ravel()])[some].astype(np.int64)
    middle = (low[some] + high[some]) / 2
    return tiles, np.column_stack([middle, np.linalg.norm(high[some] - middle, axis=1)]).astype(np.float32)


@dataclass(frozen=True)
class _Carded:
    cutout: CutOut
    light: LightThere
    feet: NDArray[np.float64]
    looks: Looks

    def towards(self, point: NDArray[np.float64]) -> tuple[NDArray[np.float64], Sprite]:
        """The card record and sprite that face a point in plan."""
        return self.facing(point - self.feet)

    def facing(self, way: NDArray[np.float64]) -> tuple[NDArray[np.float64], Sprite]:
        level = np.array([way[0], way[1], 0.0])
        length = float(np.linalg.norm(level))
        level = level / length if length > 1e-9 else np.array([0.0, -1.0, 0.0])
        sprite = self.looks(self.cutout, (float(level[0]), float(level[1])))
        card = np.zeros(kernels.CARD)
        card[kernels.FEET : kernels.FEET + 3] = self.feet
        card[kernels.ACROSS : kernels.ACROSS + 3] = -level[1], level[0], 0.0
        card[kernels.FACES : kernels.FACES + 3] = level
        card[kernels.ROW_M] = self.cutout.height_m / sprite.size[0]
        card[kernels.ROWS], card[kernels.MIDDLE] = sprite.size[0], sprite.middle
        card[kernels.MIRRORED] = self.cutout.mirrored
        return card, sprite


def _shadows(seen: SeenOfFilm, cards: list[_Carded], sun: Sunlight | None) -> tuple[Array, ...]:
    """The share (H, W) of each group's light that is left by the cards' shadows."""
    size, names = seen.depth.shape, seen.film.group_names
    around, touched = np.ones(size, np.float32), np.ones(size, np.float32)
    free: dict[str, Array] = {}
    straight = [c.light.straight for c in cards if c.light.straight > 0]
    for c in cards:
        strength = c.cutout.cast * c.cutout.opacity
        _dim(seen, c, around, touched)
        if strength <= 0:
            continue
        if sun is not None and seen.sunlit is not None:
            card, sprite = c.facing(sun.towards)
            _shade(
                seen,
                card,
                sprite,
                sun.towards,
                sun.radius,
                False,
                strength,
                free.setdefault("sun", np.ones(size, np.float32)),
            )
        for lamp in c.light.lamps:
            place = np.array(lamp.place) - seen.origin
            card, sprite = c.towards(place)
            _shade(
                seen,
                card,
                sprite,
                place,
                lamp.radius_m,
                True,
                strength * lamp.share,
                free.setdefault(lamp.group, np.ones(size, np.float32)),
            )
    dark = around * touched

    def of(name: str) -> Array:
        if name == "sun" and "sun" in free and seen.sunlit is not None and straight:
            # What the sun lights straight is not hidden by what hides the sky.
            share = seen.sunlit * np.float32(np.mean(straight))
            return np.asarray(touched * ((1 - share) * around + share * free[name]), np.float32)
        # A lamp's own share is in the strength that its shadow was laid with.
        return dark * free[name] if name in free else dark

    return tuple(of(name) for name in names)


def _dim(seen: SeenOfFilm, c: _Carded, around: Array, touched: Array) -> None:
    """What someone hides of the light around, and the dark under their feet."""
    own = c.cutout
    if own.cast <= 0 and own.contact <= 0:
        return
    card, sprite = c.towards(seen.lens)
    pieces = sprite.feet * own.height_m * (-1.0 if own.mirrored else 1.0)
    pieces = np.sort(pieces, axis=1) if len(pieces) else np.array([[-0.1, 0.1]]) * own.height_m
    away = np.linalg.norm(seen.balls[:, :3] - c.feet, axis=1) - seen.balls[:, 3]
    tiles = np.ascontiguousarray(seen.tiles[away < kernels.REACH_HEIGHTS * own.height_m + own.height_m])
    if len(tiles):
        in_bands(
            kernels.dim_tiles, len(tiles), tiles, seen.place, seen.normal, seen.depth, c.feet, sprite.half_width * own.height_m * max(own.cast, 1e-3),
            own.height_m, np.ascontiguousarray(pieces), card[kernels.ACROSS : kernels.ACROSS + 2].copy(), REACH * min(own.height_m, 2.0),
            own.contact * own.opacity, around, touched,
        )  # fmt: skip


def _shade(
    seen: SeenOfFilm,
    card: NDArray[np.float64],
    sprite: Sprite,
    source: NDArray[np.float64],
    size: float,
    near: bool,
    strength: float,
    free: Array,
) -> None:
    texels, levels = sprite.levels
    tiles = _in_the_way(seen, card, sprite, source, size, near)
    if len(tiles):
        in_bands(
            kernels.shade_tiles, len(tiles), tiles, seen.place, seen.depth, card, texels, levels, np.ascontiguousarray(source, np.float64),
            float(size), near, float(strength), free,
        )  # fmt: skip


def _in_the_way(
    seen: SeenOfFilm, card: NDArray[np.float64], sprite: Sprite, source: NDArray[np.float64], size: float, near: bool
) -> NDArray[np.int64]:
    """The tiles (N, 2) of which some place may lie in a card's shadow: those whose ball meets the card on its way to the light."""
    middle, radius = seen.balls[:, :3].astype(float), seen.balls[:, 3].astype(float)
    feet, across, faces = (card[k : k + 3] for k in (kernels.FEET, kernels.ACROSS, kernels.FACES))
    way = source - middle if near else np.broadcast_to(source, middle.shape)
    down = way @ faces
    with np.errstate(divide="ignore", invalid="ignore"):
        t = ((feet - middle) @ faces) / down
        at = middle + t[:, None] * way - feet
        # A place beside the middle of a ball meets the card beside it: by the slant of the light, and by how it spreads.
        length = np.linalg.norm(way, axis=1)
        slack = radius * (1 + length / np.abs(down)) * (np.maximum(1 - t, 0.05) if near else 1.0)
        blur = np.abs(t) * (size if near else math.tan(size))
    rows, columns = sprite.size
    wide = max(sprite.middle, columns - sprite.middle) * card[kernels.ROW_M]
    tall = rows * card[kernels.ROW_M]
    reached = (t > -slack / np.maximum(length, 1e-9)) & (np.abs(at @ across) < wide + slack + blur)
    reached &= (at[:, 2] > -slack - blur) & (at[:, 2] < tall + slack + blur)
    # Close to the light's own plane nothing can be told of a ball: its places are asked.
    reached |= np.abs(down) * radius < 1e-3 if near else False
    return np.ascontiguousarray(seen.tiles[reached | (near & (np.abs(down) < 2 * radius))])


def _sunlit(film: Film, passes: dict[str, Array], sun: Sunlight) -> Array:
    """The share (H, W) of the sun's disc that shines on what is seen: its light there over what a surface of that colour, turned like
    that, would have of it in the open. Half of it is taken for full light and a quarter for shade, for what is around lights both."""
    colour = passes["surface_colour"] @ _LUMA
    normal = passes["normal"]
    length = np.maximum(np.linalg.norm(normal, axis=-1), 1e-3)
    facing = np.clip(normal @ sun.towards.astype(np.float32) / length, 0.02, 1)
    light = film.groups["sun"] @ _LUMA
    if film.samples < FEW:
        light, colour = uniform_filter(light, 5), uniform_filter(colour, 5)
    open_sun = colour * facing * float(sun.normal_lx @ LUMINANCE) / math.pi
    ratio = light / np.maximum(open_sun, 1e-6)
    return np.asarray(np.clip((ratio - 0.25) / 0.5, 0, 1), np.float32)


def _mirror(passes: dict[str, Array], film: Film) -> tuple[float, Array] | None:
    """Height about the traced zero of the level mirror that fills most of the picture, and the share (H, W) of its light that is reflected;
    None where there is none."""
    whole = np.maximum(sum(film.groups.values()) @ _LUMA, 1e-6)  # type: ignore[operator]
    # Ripples turn single normals, and few samples leave the share of the mirror in specks: both are taken over a few pixels.
    share = np.clip(uniform_filter(passes["reflection"] @ _LUMA, 9) / uniform_filter(whole, 9), 0, 1)
    upright = (uniform_filter(passes["normal"][..., 2], 9) > UPRIGHT) & np.isfinite(passes["depth"])
    found = upright & (share > MIRRORS)
    if found.mean() < 0.003:
        return None
    height = float(np.median(passes["position"][found][:, 2]))
    near = upright & (np.abs(passes["position"][..., 2] - height) < 0.05)
    return height, np.where(near, share, 0).astype(np.float32)


def _pictured(seen: SeenOfFilm, c: _Carded, sun: Sunlight | None, veil: Veil) -> list[Patch]:
    """A card as it is seen, after its reflection in the mirror."""
    card, sprite = c.towards(seen.lens)
    found, mirror = [], seen.mirror
    if mirror is not None and c.feet[2] + seen.origin[2] > mirror[0] - 0.3:
        part = _laid_part(seen, card, sprite, c, mirror[0] - float(seen.origin[2]))
        if part is not None:
            left, top, laid_ = part
            rows, across = slice(top, top + len(laid_)), slice(left, left + laid_.shape[1])
            share = mirror[1][rows, across]
            mirrored = laid_[..., 3] * (share > 0)
            light = (
                _lit(seen, c, card, laid_, sun, veil) * (_fresnel(seen, rows, across) * (share > 0))[..., None, None]
            )
            found.append(Patch(left, top, mirrored, light, None, mirrored * share))
    part = _laid_part(seen, card, sprite, c, -1e9)
    if part is not None:
        left, top, laid_ = part
        far = np.asarray(laid_[..., kernels.LAID_DEPTH] / np.maximum(laid_[..., 3], 1e-6), np.float32)
        # What fog lies before it leaves the picture as it is there, which far off is the fog's own light.
        covers = np.asarray(laid_[..., 3] * c.cutout.opacity * veil.through_fog(far), np.float32)
        sent = _lit(seen, c, card, laid_, sun, veil) * np.float32(c.cutout.opacity)
        found.append(Patch(left, top, covers, sent, far, covers))
    return found


def _laid_part(
    seen: SeenOfFilm, card: NDArray[np.float64], sprite: Sprite, c: _Carded, mirror_z: float
) -> tuple[int, int, Array] | None:
    """Left, top and what is laid (h, w, LAID) of a card; None where nothing of it is seen."""
    height, width = seen.depth.shape
    _, cols = sprite.size
    wide = max(sprite.middle, cols - sprite.middle) * card[kernels.ROW_M]
    corners = []
    for side in (-wide, wide):
        for up in (0.0, c.cutout.height_m):
            at = c.feet + side * card[kernels.ACROSS : kernels.ACROSS + 3] + [0, 0, up]
            if mirror_z > -1e8:
                at[2] = 2 * mirror_z - at[2]
            spot = project_point(seen.camera, at)
            if spot is None:
                return None
            corners.append((spot[0] * width, spot[1] * height))
    x, y = np.array(corners).T
    left, right = max(int(x.min()) - 1, 0), min(int(x.max()) + 2, width)
    top, bottom = max(int(y.min()) - 1, 0), min(int(y.max()) + 2, height)
    if right <= left or bottom <= top:
        return None
    out = np.zeros((bottom - top, right - left, kernels.LAID), np.float32)
    slack = SLACK_M + SLACK_SHARE * float(np.linalg.norm(c.feet - seen.lens))
    kernels.lay_rows(
        seen.camera,
        width,
        height,
        card,
        *sprite.levels,
        seen.depth,
        slack,
        left,
        top,
        float(mirror_z),
        out,
        0,
        len(out),
    )
    return (left, top, out) if out[..., 3].any() else None


def _lit(
    seen: SeenOfFilm, c: _Carded, card: NDArray[np.float64], laid_: Array, sun: Sunlight | None, veil: Veil
) -> Array:
    """Light times alpha (h, w, G, 3) in cd/m2 that a card sends to the lens: L = colour E(n) / pi for a matt body, with E from the
    cards measured about it, weighed by the squares of the normal's parts (G. McTaggart, the ambient cube, GDC 2004), and the sun's own; then
    through the air before it."""
    own, there = c.cutout, c.light
    some = laid_[..., 3] > 0
    spots = laid_[some]  # (N, LAID)
    alpha = spots[:, 3:4]
    colour, facing = spots[:, :3], spots[:, 4:7] / alpha
    if own.manner != "lit":
        colour = alpha * _tone(own)
    across, faces = card[kernels.ACROSS : kernels.ACROSS + 3], card[kernels.FACES : kernels.FACES + 3]
    turned = facing * np.array([-1 if own.mirrored else 1, 1, 1], np.float32)
    normal = turned @ np.array([across, [0.0, 0.0, 1.0], faces], np.float32)
    normal /= np.maximum(np.linalg.norm(normal, axis=-1, keepdims=True), 1e-6)
    height = spots[:, kernels.LAID_HEIGHT] / alpha[:, 0]
    steps = np.stack([np.interp(height, HEIGHTS, row) for row in np.eye(len(HEIGHTS))], -1).astype(np.float32)
    sides = np.maximum(normal @ AXES.T.astype(np.float32), 0) ** 2
    if own.manner == "wash":  # flat: lit as one piece
        sides[:] = np.array([1, 1, 1, 1, 1.2, 0.8], np.float32) / 6
    groups, names = there.around.shape[2], seen.film.group_names
    illuminance = (steps[:, :, None] * sides[:, None, :]).reshape(len(spots), -1) @ there.around.reshape(
        -1, groups * 3
    ).astype(np.float32)
    illuminance = illuminance.reshape(len(spots), groups, 3)
    if sun is not None and "sun" in names:
        shines = np.full(len(spots), 0.4) if own.manner == "wash" else np.maximum(normal @ sun.towards, 0)
        shines = shines * np.interp(height, HEIGHTS, there.sun)
        illuminance[:, names.index("sun")] += (shines[:, None] * sun.normal_lx).astype(np.float32)
    level = np.float32(2.0**own.level_stops / math.pi)
    through = veil.through_fog(spots[:, kernels.LAID_DEPTH] / alpha[:, 0])
    let_by, added = veil.clear_air(c.feet - seen.lens)
    light = np.zeros((*some.shape, groups, 3), np.float32)
    sent = colour[:, None] * illuminance * level * let_by.astype(np.float32)
    if "sky" in names:
        sent[:, names.index("sky")] += alpha * added.astype(np.float32)
    light[some] = sent * through[:, None, None]
    return light


def _tone(own: CutOut) -> Array:
    if own.manner == "silhouette":
        return np.full(3, 0.012, np.float32)
    code = np.array([int(own.tone[k : k + 2], 16) for k in (1, 3, 5)]) / 255.0
    return np.asarray(srgb_decode(code), np.float32)


def _fresnel(seen: SeenOfFilm, rows: slice, across: slice) -> Array:
    """Reflectance (h, w) of water at the angle of each sight, by Schlick's approximation (1994)."""
    away = seen.lens - seen.place[rows, across]
    cosine = np.clip(away[..., 2] / np.maximum(np.linalg.norm(away, axis=-1), 1e-6), 0, 1)
    straight = ((WATER_INDEX - 1) / (WATER_INDEX + 1)) ** 2
    return np.asarray(straight + (1 - straight) * (1 - cosine) ** 5, np.float32)
