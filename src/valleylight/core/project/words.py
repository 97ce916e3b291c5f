"""What is wrong with a description or a request, in the words of the trade instead of a library's."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

#: Fields whose name does not say enough by itself.
FIELDS = {
    "when": "date and hour", "focal_mm": "focal length", "f_number": "f-number", "shutter_s": "shutter", "iso": "ISO",
    "latitude_deg": "latitude", "longitude_deg": "longitude", "elevation_m": "height above the sea", "north_deg": "north",
    "time_zone": "time zone", "level_stops": "level", "focus_m": "focus", "lens_at": "lens", "look_at": "look",
}  # fmt: skip
_UNITS = re.compile(r"_(m|mm|deg|s|stops|percent|cd_m2|lx)$")
_ONE = {
    "views": "view", "occasions": "occasion", "kinds": "kind of fixture", "fixtures": "fixture", "looks": "look",
    "scenes": "scene", "treatments": "treatment", "changes": "change", "placements": "thing on the stage",
    "layers": "layer", "cutouts": "cut-out", "sequences": "sequence",
}  # fmt: skip


def place(path: Sequence[str | int], raw: Any = None) -> str:
    """Where a field is, for people: 'occasion "Noon", date and hour'. `raw` is the data it was looked for in."""
    parts: list[str] = []
    value, k = raw, 0
    while k < len(path):
        step = path[k]
        inner = value.get(step) if isinstance(value, dict) else None
        if isinstance(step, str) and step in _ONE and k + 1 < len(path) and isinstance(path[k + 1], int):
            number = path[k + 1]
            item = (
                inner[number] if isinstance(inner, list) and isinstance(number, int) and number < len(inner) else None
            )
            name = (item.get("name") or item.get("key")) if isinstance(item, dict) else None
            parts.append(f'{_ONE[step]} "{name}"' if name else f"{_ONE[step]} {int(number) + 1}")
            value, k = item, k + 2
            continue
        if isinstance(step, int):
            value = value[step] if isinstance(value, list) and step < len(value) else None
            parts.append(f"number {step + 1}")
        else:
            value = inner
            # A union's branch is named after its model: of no interest to people.
            if not step[:1].isupper() and not step.startswith(("function-", "tagged-")):
                parts.append(FIELDS.get(step, _UNITS.sub("", step).replace("_", " ")))
        k += 1
    return ", ".join(parts)


def plain(error: dict[str, Any]) -> str:
    """What is wrong, from one error as pydantic lists it."""
    kind, context = error["type"], error.get("ctx", {})
    given = error.get("input")
    shown = f"{given!r:.60} " if isinstance(given, (str, int, float)) and not isinstance(given, bool) else "it "
    if kind in ("value_error", "assertion_error"):
        return str(error["msg"]).removeprefix("Value error, ").removeprefix("Assertion failed, ")
    if kind.startswith(("datetime", "date")) or kind.startswith("time"):
        return f"{shown}cannot be read as a date and hour; write it as 2026-06-21T14:30"
    limits = {
        "greater_than": ("gt", "must be more than {}"), "greater_than_equal": ("ge", "must be {} or more"),
        "less_than": ("lt", "must be less than {}"), "less_than_equal": ("le", "must be {} or less"),
        "string_too_short": ("min_length", "needs at least {} letters"),
        "string_too_long": ("max_length", "may have {} letters at most"),
        "too_long": ("max_length", "may hold {} at most"), "too_short": ("min_length", "must hold at least {}"),
    }  # fmt: skip
    if kind in limits:
        name, text = limits[kind]
        return shown + text.format(f"{context.get(name):g}" if isinstance(context.get(name), (int, float)) else "more")
    known = {
        "missing": "is missing", "extra_forbidden": "is not known here", "finite_number": "must be a finite number",
        "string_pattern_mismatch": shown + "is not written as it must be", "literal_error": f"{shown}is not one of {context.get('expected')}",
        "model_type": "must be a group of fields", "model_attributes_type": "must be a group of fields",
        "dict_type": "must be a table", "list_type": "must be a list", "tuple_type": "must be a list",
        "union_tag_invalid": "is of no known kind", "union_tag_not_found": "does not say of which kind it is",
        "json_invalid": "is not legal JSON",
    }  # fmt: skip
    if kind in known:
        return known[kind]
    for sort, text in (
        ("string", "must be text"),
        ("int", "must be a whole number"),
        ("float", "must be a number"),
        ("bool", "must be true or false"),
    ):
        if kind.startswith(sort):
            return shown + text
    return f"{shown}cannot be used"
