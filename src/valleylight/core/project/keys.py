"""Keys and names that are not taken yet."""

from __future__ import annotations

import re
from collections.abc import Collection
from itertools import count

LONGEST_KEY, LONGEST_NAME = 64, 80


def key_for(name: str, taken: Collection[str], otherwise: str) -> str:
    """A key made of a name for people, or of another word where nothing of the name is left."""
    stem = re.sub(r"\.[a-z0-9]{1,5}$", "", name.lower())
    base = re.sub(r"[^a-z0-9]+", "-", stem).strip("-")[: LONGEST_KEY - 16].strip("-") or otherwise
    return base if base not in taken else free_key(base, taken)


def free_key(base: str, taken: Collection[str]) -> str:
    """A key not yet taken: the base with a number after it."""
    return _numbered(base, "-", LONGEST_KEY, taken)


def free_name(name: str, taken: Collection[str]) -> str:
    """A name not yet taken: "Noon" becomes "Noon 2", that "Noon 3"."""
    return _numbered(name, " ", LONGEST_NAME, taken)


def _numbered(text: str, between: str, longest: int, taken: Collection[str]) -> str:
    """The text with the first free number from 2 after it, in place of one that it has."""
    room = longest - 6
    stem = re.sub(rf"{between}\d+$", "", text)[:room] or text[:room]
    return next(made for number in count(2) if (made := f"{stem}{between}{number}") not in taken)
