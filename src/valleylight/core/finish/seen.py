"""What a film knows of its picture beside the light, for treatments and their limits."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from valleylight.core.film.film import Film
from valleylight.core.project.description import Look
from valleylight.core.treatments.cube import Cube, read_cube
from valleylight.core.treatments.seen import NOTHING_SEEN, LensSeen, Seen

KEPT_TABLES = 16
_tables: OrderedDict[str, Cube] = OrderedDict()


def seen_of(film: Film, look: Look | None = None, read: Callable[[str], bytes] | None = None) -> Seen:
    """What a film knows. With a look only what that asks for is worked out; `read` gives the files of its lookup tables by SHA-256."""
    treatments = [t for t in look.treatments if t.on] if look is not None else None
    limits = [t.limit for t in treatments or () if t.limit is not None]
    blur = film.settings.get("blur")
    if treatments is not None and not treatments and blur is None:
        return NOTHING_SEEN
    every = treatments is None
    kept = film.settings.get("lens")
    lens = LensSeen(**{**kept, "off_axis": tuple(kept["off_axis"])}) if isinstance(kept, dict) else LensSeen()
    sun = film.settings.get("sun_at")
    by_place = any(limit.distance_m or limit.height_m for limit in limits)
    by_depth = any(t.BY_DISTANCE for t in treatments or ())
    asked = every or any(limit.by_masks for limit in limits)
    objects, surfaces = _shares(film) if asked and film.masks.size else ({}, {})
    return Seen(
        lens=lens, sun_at=None if sun is None else (float(sun[0]), float(sun[1])),
        passes=_places(film) if every or by_place or by_depth or blur is not None else {},
        groups=film.groups if every or any(limit.groups for limit in limits) else {},
        objects=objects, surfaces=surfaces,
        tables={} if look is None or read is None else {sha: _table(sha, read) for sha in look.files},
        axes=_axes(film), blur=None if blur is None else (float(blur[0]), float(blur[1])),
    )  # fmt: skip


def _table(sha256: str, read: Callable[[str], bytes]) -> Cube:
    """A table by the SHA-256 of its file, read once while it is in use: what goes by that name never changes."""
    if sha256 not in _tables:
        _tables[sha256] = read_cube(read(sha256))
        while len(_tables) > KEPT_TABLES:
            _tables.popitem(last=False)
    _tables.move_to_end(sha256)
    return _tables[sha256]


def needs_masks(look: Look) -> bool:
    """Whether a look asks which thing or surface is seen where."""
    return any(t.on and t.limit is not None and t.limit.by_masks for t in look.treatments)


def _axes(film: Film) -> tuple[list[float], list[float], list[float]] | None:
    """Axes of the lens: ahead, to the right, up; as the tracer's camera record has them after its place."""
    record = film.settings.get("camera")
    return None if record is None else (record[3:6], record[6:9], record[9:12])


def _places(film: Film) -> dict[str, NDArray[np.float32]]:
    passes = film.passes
    return {"depth": passes["depth"], "position": passes["position"], "normal": passes["normal"]}


def _shares(film: Film) -> tuple[dict[str, NDArray[np.float32]], dict[str, NDArray[np.float32]]]:
    """The share of each pixel's samples (H, W) that met each object and each surface, by name."""
    counts = np.maximum(film.counts, 1)
    both: list[dict[str, NDArray[np.float32]]] = []
    for which, names in enumerate(film.mask_names):
        numbers, samples = film.masks[:, :, which, :, 0], film.masks[:, :, which, :, 1]
        made: dict[str, NDArray[np.float32]] = {}
        for number in np.unique(numbers[samples > 0]).astype(int):
            if 1 <= number <= len(names):  # 0 is where nothing was met
                share = np.where(numbers == number, samples, 0).sum(-1) / counts
                name = names[number - 1]
                made[name] = made[name] + share.astype(np.float32) if name in made else share.astype(np.float32)
        both.append(made)
    return both[0], both[1]
