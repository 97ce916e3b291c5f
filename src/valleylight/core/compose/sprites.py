"""Sprites at hand: those of the catalogue traced once from each side and kept, those of pictures read once."""

from __future__ import annotations

import hashlib
import json
import zipfile
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

import numpy as np

from valleylight.core.compose.sculpted import sculpted
from valleylight.core.compose.sides import drawn_from, side_of
from valleylight.core.compose.sprite import TEXEL, Sprite, sprite_of_picture
from valleylight.core.objects import family_of
from valleylight.core.project.cutout import CutOut
from valleylight.core.project.placement import Made

KEPT = 200
#: Goes into the names of kept ones: another makes all of them anew.
VERSION = "1"


class Sprites:
    """`read` gives files by SHA-256; what is traced is kept in `folder` too, if there is one."""

    def __init__(self, read: Callable[[str], bytes], folder: Path | None = None) -> None:
        self._read, self._folder = read, folder
        self._kept: OrderedDict[str, Sprite] = OrderedDict()

    def of(self, cutout: CutOut, towards: tuple[float, float], stop: Callable[[], bool] = lambda: False) -> Sprite:
        """How a cut-out looks from a direction in plan. Raises InputError for a picture that cannot be read or numbers out of
        their limits, StoppedError once `stop` says so."""
        if cutout.made is None:
            return self._of_picture(cutout)
        return self.of_made(cutout.made, _side(cutout, towards), stop)

    def of_made(self, what: Made, side: int, stop: Callable[[], bool] = lambda: False) -> Sprite:
        """A member of a family from one of its sides."""
        name = _name(what, side)
        found = self._kept.get(name) or self._load(name)
        if found is None:
            found = sculpted(what, side, stop)
            self._save(name, found)
        self._put(name, found)
        return found

    def has(self, cutout: CutOut, towards: tuple[float, float]) -> bool:
        """Whether it is at hand without tracing."""
        if cutout.made is None:
            return True
        name = _name(cutout.made, _side(cutout, towards))
        return name in self._kept or (self._folder is not None and (self._folder / name).is_file())

    def _of_picture(self, cutout: CutOut) -> Sprite:
        assert cutout.picture is not None
        found = self._kept.get(cutout.picture)
        if found is None:
            found = sprite_of_picture(self._read(cutout.picture), cutout.name)
        self._put(cutout.picture, found)
        return found

    def _put(self, name: str, made: Sprite) -> None:
        self._kept[name] = made
        self._kept.move_to_end(name)
        while len(self._kept) > KEPT:
            self._kept.popitem(last=False)

    def _load(self, name: str) -> Sprite | None:
        """One that was kept on disk; None where there is none, or a damaged one, which is then made anew."""
        if self._folder is None:
            return None
        try:
            with np.load(self._folder / name) as kept:
                texels, middle = kept["texels"].astype(np.float32), float(kept["middle"])
        except (OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile):
            return None
        sound = (
            texels.ndim == 3
            and texels.shape[2] == TEXEL
            and texels.size
            and np.isfinite(texels).all()
            and np.isfinite(middle)
        )
        return Sprite(np.ascontiguousarray(texels), middle, True) if sound else None

    def _save(self, name: str, made: Sprite) -> None:
        if self._folder is None:
            return
        partial = self._folder / f"{name}.part"
        with partial.open("wb") as file:
            np.savez_compressed(file, texels=made.texels.astype(np.float16), middle=made.middle)
        partial.replace(self._folder / name)


def _side(cutout: CutOut, towards: tuple[float, float]) -> int:
    """The side that is seen; of one whose left is its right, that of its mirror image."""
    side = side_of(cutout.turn_deg, towards)
    return -side if cutout.mirrored else side


def _name(what: Made, side: int) -> str:
    values = json.dumps(family_of(what.family).values(what.parameters), sort_keys=True)
    drawn = drawn_from(what.family, side)
    return f"cutout-{hashlib.sha256(f'{VERSION}/{what.family}/{values}/{drawn}'.encode()).hexdigest()[:24]}.npz"
