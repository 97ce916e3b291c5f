"""The catalogue of objects: families of furniture, things, planting and figures, made at true size by generators."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import lru_cache

from valleylight.core.errors import NotFoundError
from valleylight.core.making.glb import Model, Thing, write_glb
from valleylight.core.objects import furniture, outdoors, people, planting, surroundings, things
from valleylight.core.objects.family import Family, Parameter

FAMILIES: tuple[Family, ...] = (
    *furniture.FAMILIES,
    *things.FAMILIES,
    *planting.FAMILIES,
    *outdoors.FAMILIES,
    *people.FAMILIES,
    *surroundings.FAMILIES,
)

__all__ = ["FAMILIES", "Family", "Parameter", "family_of", "made"]


def family_of(key: str) -> Family:
    """A family by its key. Raises NotFoundError."""
    found = next((f for f in FAMILIES if f.key == key), None)
    if found is None:
        raise NotFoundError(f"there is no family of objects {key!r}", "family", "Choose one of the catalogue")
    return found


def made(family: Family, wanted: Mapping[str, float]) -> bytes:
    """A member of a family as GLB, the same bytes for the same numbers. Raises InputError for numbers out of their limits."""
    return _made(family.key, json.dumps(family.values(wanted), sort_keys=True))


@lru_cache(maxsize=12)  # trees are megabytes each
def _made(key: str, values: str) -> bytes:
    family, model = family_of(key), Model()
    thing = Thing(family.name)
    family.build(model, thing, json.loads(values))
    model.put(thing)
    return write_glb(model)
