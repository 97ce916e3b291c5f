"""Which plates are put away when there are many: by rule, and never what somebody has marked."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta

#: The newest plates of a cell of the wall that stay whatever their age, and how old the others may grow.
NEWEST, OLDEST = 6, timedelta(days=14)
#: Whatever else goes, the newest of each quality stays, and every plate of the finest.
FINEST = "press"


@dataclass(frozen=True)
class Kept:
    """A plate as the rule sees it. `marked`: starred, named, noted, put in its place by hand, or named elsewhere."""

    id: int
    cell: tuple[str, str]
    quality: str
    created: datetime
    marked: bool


def to_thin(plates: Iterable[Kept], now: datetime) -> list[int]:
    """Numbers of the plates that the rule puts away, the oldest first."""
    cells: dict[tuple[str, str], list[Kept]] = defaultdict(list)
    for plate in plates:
        cells[plate.cell].append(plate)
    gone = []
    for there in cells.values():
        newest = sorted(there, key=lambda p: p.id, reverse=True)
        first_of = {p.quality: p.id for p in reversed(newest)}
        gone += [
            p for p in newest[NEWEST:]
            if not p.marked and p.quality != FINEST and first_of[p.quality] != p.id and now - p.created > OLDEST
        ]  # fmt: skip
    return [p.id for p in sorted(gone, key=lambda p: p.id)]
