"""The live film without noise, kept so that a new look or level costs no noise removal.

Light adds up, and noise removal very nearly does: when the level of a group changes, the kept picture changes by that
group's share of it. The share is smooth, so it is found at a quarter of the size, and the detail stays the kept picture's. That is
for the hand in motion: at rest the whole sum is cleaned again.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.film.blocks import block_means
from valleylight.core.film.denoise import clean_picture
from valleylight.core.film.film import Film, Level, rgb_of

Picture = NDArray[np.float32]
#: Shares of groups are found at so many times less width and height.
REDUCED = 4


class CleanedFilm:
    """A film at a number of samples and some levels, without noise."""

    def __init__(
        self, film: Film, levels: Mapping[str, Level], quality: str, stop: Callable[[], bool] | None = None
    ) -> None:
        """Raises StoppedError once `stop` says so."""
        self._film, self._samples = film, film.samples
        self._colour, self._normal = film.guides
        self._raw = film.groups
        self.levels: dict[str, Level] = {name: levels.get(name, 1.0) for name in film.group_names}
        self._base = clean_picture(_sum(self._raw, self.levels), self._colour, self._normal, quality, stop)
        self._base_levels = dict(self.levels)
        self._shares: dict[str, Picture] = {}
        self._small: tuple[Picture, Picture, Picture] | None = None
        self.picture = self._base
        #: Mean of each group (3,) at level 1, cd/m2.
        self.means = {name: p.mean((0, 1)).astype(float) for name, p in self._raw.items()}

    def is_of(self, film: Film | None) -> bool:
        """Whether it still is that film: no pass was added since."""
        return film is not None and self._film is film and film.samples == self._samples

    def began_as(self, film: Film | None) -> bool:
        """Whether it is that film, with the samples it has now or fewer."""
        return film is not None and self._film is film

    @property
    def is_exact(self) -> bool:
        """The picture is the sum as it was cleaned."""
        return self.levels == self._base_levels

    def at(self, levels: Mapping[str, Level]) -> Picture:
        """The picture at other levels (H x W x 3, cd/m2)."""
        wanted = {name: levels.get(name, 1.0) for name in self.levels}
        if wanted != self.levels:
            changed = {n: rgb_of(wanted[n]) - rgb_of(old) for n, old in self._base_levels.items() if wanted[n] != old}
            picture = self._base
            for name, by in changed.items():
                picture = picture + by * self._group(name)
            self.picture, self.levels = np.maximum(picture, 0), wanted
        return self.picture

    @property
    def not_ready(self) -> list[str]:
        """Groups whose level would take a while to change: nothing has been made ready for it."""
        return [name for name in self._base_levels if name not in self._shares]

    def make_ready(self, name: str, stop: Callable[[], bool] | None = None) -> None:
        """Make ready what a level of a group needs. Raises StoppedError once `stop` says so."""
        self._group(name, stop)

    def shares(self) -> dict[str, float]:
        """Share of the light that each group gives at the levels held, 0 to 1."""
        given = {name: float(rgb_of(self.levels[name]) * mean @ LUMINANCE) for name, mean in self.means.items()}
        total = sum(given.values())
        return {name: round(value / total, 6) if total > 0 else 0.0 for name, value in given.items()}

    def _group(self, name: str, stop: Callable[[], bool] | None = None) -> Picture:
        """A group at level 1: the kept picture times the group's share of it."""
        if name not in self._shares:
            raw = self._raw[name]
            if not raw.any():
                self._shares[name] = raw
            elif not rgb_of(self._base_levels[name]).min() > 0:  # the kept picture knows nothing of it
                self._shares[name] = clean_picture(raw, self._colour, self._normal, "fast", stop)
            else:
                if self._small is None:
                    small = [block_means(p, REDUCED) for p in (self._base, self._colour, self._normal)]
                    self._small = (small[0], small[1], small[2])
                whole, colour, normal = self._small
                part = clean_picture(block_means(raw, REDUCED), colour, normal, "fast", stop)
                most = 1.0 / rgb_of(self._base_levels[name])
                least = np.float32(1e-3 * float(whole.mean()) + 1e-12)
                share: Picture = np.clip(part / np.maximum(whole, least), 0, most).astype(np.float32)
                self._shares[name] = self._base * _enlarged(share, raw.shape[1], raw.shape[0])
        return self._shares[name]


def _sum(groups: dict[str, Picture], levels: Mapping[str, Level]) -> Picture:
    """The linear picture: the groups added at their levels."""
    total = np.zeros_like(next(iter(groups.values())))
    for name, picture in groups.items():
        level = rgb_of(levels[name])
        if (level == 1).all():
            total += picture
        elif level.any():
            total += level * picture
    return total


def _enlarged(picture: Picture, width: int, height: int) -> Picture:
    """Brought to a size, linear between the pixels."""
    size, way = (width, height), Image.Resampling.BILINEAR
    return np.stack([np.asarray(Image.fromarray(picture[..., k]).resize(size, way)) for k in range(3)], -1)
