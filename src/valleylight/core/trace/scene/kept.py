"""What was computed is kept under what it was computed from."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable, Collection, Hashable
from typing import Generic, TypeVar

V = TypeVar("V")


class Kept(Generic[V]):
    """Values by their keys; the least recently used is let go of beyond `most`, or where all of them together weigh more than `heaviest` by
    the measure `weigh`. The newest always stays."""

    def __init__(self, most: int, weigh: Callable[[V], float] | None = None, heaviest: float = float("inf")) -> None:
        self._most, self._weigh, self._heaviest = most, weigh, heaviest
        self._values: OrderedDict[Hashable, V] = OrderedDict()

    def __contains__(self, key: Hashable) -> bool:
        return key in self._values

    def get(self, key: Hashable, make: Callable[[], V]) -> V:
        """The value kept under a key, made when missing."""
        if key in self._values:
            self._values.move_to_end(key)
            return self._values[key]
        value = self._values[key] = make()
        while len(self._values) > self._most or (len(self._values) > 1 and self._weight() > self._heaviest):
            self._values.popitem(last=False)
        return value

    def _weight(self) -> float:
        weigh = self._weigh
        return 0.0 if weigh is None else sum(weigh(v) for v in self._values.values())

    def values(self) -> list[V]:
        return list(self._values.values())

    def keep_only(self, keys: Collection[Hashable]) -> None:
        """Let go of all but some; others may be added meanwhile."""
        for key in list(self._values):
            if key not in keys:
                self._values.pop(key, None)

    def newest(self) -> V | None:
        """What was used last."""
        return next(reversed(self._values.values()), None)


def digest(*parts: object) -> str:
    """A hash of description parts, for keeping what was computed from them."""
    text = "|".join(
        p.model_dump_json() if hasattr(p, "model_dump_json")
        else repr([q.model_dump_json() if hasattr(q, "model_dump_json") else q for q in p])
        if isinstance(p, (tuple, list)) else repr(p)
        for p in parts
    )  # fmt: skip
    return hashlib.sha256(text.encode()).hexdigest()
