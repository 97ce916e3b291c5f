"""The film: what a trace adds up, told apart by light group, with the passes beside it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.film import columns
from valleylight.core.film.spread import light_per_colour, spread_over
from valleylight.core.together import together

#: What a light group is multiplied by: one number, or three for RGB.
Level = float | Sequence[float]
#: Rows of a picture that are added up at a time.
ROWS_AT_ONCE = 24
#: Objects or materials told apart in one pixel of the masks.
MASK_RANKS = 4


@dataclass
class Film:
    """Sums of a trace. `light` (H, W, G, 3), `auxiliary` (H, W, PASS_WIDTH) and `masks` (H, W, 2, 4, 2: objects and materials,
    number and samples; empty when not kept) are sums over `counts` (H, W) samples of each pixel, `spill` (H / 8, W / 8, G, 3) those of
    light beyond the firefly limit, which the groups' pictures get back spread over the surfaces about (spread.py).

    `group_names` names the G light groups. Luminance-scaled linear RGB in cd/m2 once divided by the samples. `samples`
    is the number that every pixel, or every pixel still traced, has been given.
    """

    light: NDArray[np.float32]
    auxiliary: NDArray[np.float32]
    group_names: tuple[str, ...]
    masks: NDArray[np.float32]
    counts: NDArray[np.float32]
    spill: NDArray[np.float32]
    samples: int = 0
    clean: dict[str, NDArray[np.float32]] = field(default_factory=dict)
    settings: dict[str, Any] = field(default_factory=dict)
    mask_names: tuple[tuple[str, ...], tuple[str, ...]] = ((), ())
    #: Of a film that is some rows of another: the first of them, and what the whole one spreads.
    part_of: tuple[int, NDArray[np.float32] | None] | None = None

    @classmethod
    def empty(cls, width: int, height: int, group_names: tuple[str, ...], masks: bool = False) -> Film:
        return cls(
            np.zeros((height, width, len(group_names), 3), np.float32),
            np.zeros((height, width, columns.PASS_WIDTH), np.float32), group_names,
            np.zeros((height, width, 2, MASK_RANKS, 2) if masks else (0, 0, 2, MASK_RANKS, 2), np.float32),
            np.zeros((height, width), np.float32),
            np.zeros((-(-height // columns.SPILL_CELL), -(-width // columns.SPILL_CELL), len(group_names), 3), np.float32),
        )  # fmt: skip

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.light.shape[1], self.light.shape[0]

    @property
    def _origin(self) -> NDArray[np.float64]:
        """Where the traced zero lies in the model's coordinates (3,), in metres."""
        return np.array(self.settings.get("origin_m", (0.0, 0.0, 0.0)), float)

    @property
    def _scale(self) -> NDArray[np.float32]:
        return (1.0 / np.maximum(self.counts, 1)).astype(np.float32)[..., None]

    @property
    def groups(self) -> dict[str, NDArray[np.float32]]:
        """Each light group's picture, H x W x 3 float32 in cd/m2; free of noise where `remove_noise` has run."""
        scale, pictures = self._scale, {}
        top, spread = self.part_of or (0, self.spread)
        colour = None if spread is None else self._seen
        for k, name in enumerate(self.group_names):
            if name in self.clean:
                pictures[name] = self.clean[name]
                continue
            pictures[name] = self.light[:, :, k] * scale
            if spread is not None and colour is not None and spread[:, :, k].any():
                pictures[name] += spread_over(spread[:, :, k], colour, top)
        return pictures

    @property
    def _seen(self) -> NDArray[np.float32]:
        """Colour of the surfaces seen (H, W, 3), 0 where there are none: what spread light is put on."""
        a = self.auxiliary
        met = a[..., columns.NORMAL].any(-1, keepdims=True)
        return np.where(met, np.clip(a[..., columns.COLOUR] * self._scale, 0, 1), 0)

    @property
    def spread(self) -> NDArray[np.float32] | None:
        """What light beyond the firefly limit gives to a surface of colour 1, by cell (h, w, G, 3) in cd/m2; None where there is none,
        or no group is left that would ask for it."""
        left = [k for k, name in enumerate(self.group_names) if name not in self.clean]
        if not left or not self.spill[:, :, left].any():
            return None
        return light_per_colour(self.spill, self.counts, self._seen)

    @property
    def passes(self) -> dict[str, NDArray[np.float32]]:
        """`surface_colour`, `normal`, `position` (m) and `reflection` (cd/m2), H x W x 3; `depth` in m
        along the sight from the lens's place (not along its axis), infinite where nothing was met, `shadow` (share of the direct light kept away, 0 to 1), `alpha` (share of the sky
        behind that the scene hides: a mirror hides all, a clear pane what it does not let by) and `noise`, H x W."""
        scale, a = self._scale, self.auxiliary
        hits = a[..., columns.PASS_HITS]
        free, got = a[..., columns.PASS_FREE], a[..., columns.PASS_SHADED]
        position = a[..., columns.POSITION]
        with np.errstate(divide="ignore", invalid="ignore"):
            depth = np.where(hits > 0, a[..., columns.PASS_DEPTH] / hits, np.inf).astype(np.float32)
            met = np.where(hits[..., None] > 0, position / hits[..., None] + self._origin, 0).astype(np.float32)
            shadow = np.where(free > 0, 1 - np.clip(got / free, 0, 1), 0).astype(np.float32)
        return {
            "surface_colour": np.clip(a[..., columns.COLOUR] * scale, 0, 1), "normal": a[..., columns.NORMAL] * scale, "depth": depth,
            "position": met, "shadow": shadow, "noise": self.noise,
            "alpha": np.where(self.counts > 0, 1 - np.clip(a[..., columns.PASS_BEYOND] * scale[..., 0], 0, 1), 0).astype(np.float32),
            "reflection": a[..., columns.REFLECTED] * scale,
        }  # fmt: skip

    @property
    def guides(self) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """Surface colour and normal, H x W x 3: what guides the removal of noise."""
        scale = self._scale
        return np.clip(self.auxiliary[..., columns.COLOUR] * scale, 0, 1), self.auxiliary[..., columns.NORMAL] * scale

    @property
    def noise(self) -> NDArray[np.float32]:
        """Standard error of each pixel's luminance in cd/m2, before noise removal (infinite below two samples)."""
        n = self.counts
        mean = self.auxiliary[..., columns.PASS_LUMINANCE] / np.maximum(n, 1)
        square = self.auxiliary[..., columns.PASS_SQUARES] / np.maximum(n, 1)
        with np.errstate(divide="ignore", invalid="ignore"):
            error = np.sqrt(np.maximum(square - mean * mean, 0) / np.maximum(n - 1, 1))
        return np.where(n >= 2, error, np.inf).astype(np.float32)

    def sums(self) -> tuple[NDArray[np.float32], ...]:
        """A copy of the light as it stands, to be given to `take_back` where a trace was stopped midway; masks are not in it."""
        return self.light.copy(), self.auxiliary.copy(), self.counts.copy(), self.spill.copy()

    def take_back(self, sums: tuple[NDArray[np.float32], ...]) -> None:
        """Put the light back as it was."""
        self.light[:], self.auxiliary[:], self.counts[:], self.spill[:] = sums

    def rows(self, first: int, last: int, spread: NDArray[np.float32] | None) -> Film:
        """The film's rows first to last, sharing its memory; `spread` is that of the whole film."""
        part = slice(first, last)
        return replace(
            self, light=self.light[part], auxiliary=self.auxiliary[part], counts=self.counts[part],
            masks=self.masks[part] if len(self.masks) else self.masks,
            part_of=(first, spread),
            clean={name: picture[part] for name, picture in self.clean.items()},
        )  # fmt: skip

    def balanced(self, levels: Mapping[str, Level] | None = None) -> NDArray[np.float32]:
        """The linear picture, H x W x 3 in cd/m2: the groups added at their levels (1 unless named)."""
        shares = {name: rgb_of((levels or {}).get(name, 1.0)) for name in self.group_names}
        none = np.zeros(3, np.float32)
        traced = np.array([none if name in self.clean else shares[name] for name in self.group_names], np.float32)
        traced = traced.reshape(-1, 3)
        scale, total = self._scale, np.zeros((*self.light.shape[:2], 3), np.float32)
        # Three factors are laid out over a row: multiplying by them pixel by pixel would take twice as long.
        factors = {name: _along_a_row(shares[name], self.light.shape[1]) for name in self.clean if shares[name].any()}

        def add(top: int) -> None:
            """Some rows at a time, which stay in the processor's cache."""
            rows = slice(top, top + ROWS_AT_ONCE)
            out = total[rows]
            if traced.any():
                np.einsum("hwgc,gc->hwc", self.light[rows], traced, out=out)
                out *= scale[rows]
            flat = out.reshape(len(out), -1)
            part = np.empty_like(flat)
            for name, factor in factors.items():
                np.multiply(self.clean[name][rows].reshape(flat.shape), factor, out=part)
                flat += part

        together(add, range(0, len(total), ROWS_AT_ONCE))
        top, spread = self.part_of or (0, self.spread)
        # Spreading is linear: the groups' light is added before, and spread once.
        if spread is not None and (field := np.einsum("hwgc,gc->hwc", spread, traced)).any():
            total += spread_over(field, self._seen, top)
        return total


def rgb_of(level: Level) -> NDArray[np.float32]:
    """A level as three factors (3,)."""
    return np.broadcast_to(np.asarray(level, np.float32), (3,))


def _along_a_row(rgb: NDArray[np.float32], width: int) -> NDArray[np.float32]:
    """Factors for a row of pixels (width * 3,), or one for all of them."""
    return rgb[0] if rgb[0] == rgb[1] == rgb[2] else np.tile(rgb, width)
