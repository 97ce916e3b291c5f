"""Looks as files: open JSON, and what of a look comes after the tone curve as a table of colours."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
from pydantic import ValidationError

from valleylight.core.colour.rgb import srgb_decode, srgb_encode
from valleylight.core.errors import InputError
from valleylight.core.project import words
from valleylight.core.project.description import Look
from valleylight.core.treatments import Treatment
from valleylight.core.treatments.cube import Cube
from valleylight.core.treatments.run import treated

FORMAT, VERSION = "valleylight-look", 1
#: From this place on treatments work on the display's values, whatever the light was.
AFTER_THE_CURVE = 42
TABLE_SIZE = 33
LARGEST_BYTES = 2 * 1024 * 1024


def look_as_json(look: Look) -> str:
    """A look as an open file."""
    return json.dumps({"format": FORMAT, "version": VERSION, "look": look.model_dump(mode="json")}, indent=1) + "\n"


def look_from_json(data: bytes, name: str = "look.json") -> Look:
    """A look of a file. Raises InputError that names the field."""
    remedy = "Save the look anew and bring that file"
    if len(data) > LARGEST_BYTES:
        raise InputError("the file is too large for a look", name, remedy)
    try:
        held: Any = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise InputError("the file is no JSON", name, remedy) from error
    if not isinstance(held, dict) or held.get("format") != FORMAT:
        raise InputError("the file holds no look", name, remedy)
    if held.get("version") != VERSION:
        raise InputError(
            f"the look is of version {str(held.get('version'))[:20]}; known is {VERSION}", name, "Update first"
        )
    try:
        return Look.model_validate(held.get("look"))
    except ValidationError as error:
        raise InputError(words.plain(dict(error.errors()[0])), name, remedy) from error


def look_as_cube(look: Look) -> Cube:
    """What a look does to the display's values, as a table: its treatments from the tone curve on, but those that look around. Raises
    InputError where none is left."""
    after = [
        t for t in look.treatments if t.on and t.PLACE >= AFTER_THE_CURVE and t.limit is None and _by_colour_alone(t)
    ]
    if not after:
        raise InputError(
            "nothing of this look changes colours after the tone curve", look.name or look.key,
            "Add contrast, a curve, hues or a split tone, or save it as JSON",
        )  # fmt: skip
    steps = np.linspace(0, 1, TABLE_SIZE)
    blue, green, red = np.meshgrid(steps, steps, steps, indexing="ij")
    codes = np.stack([red, green, blue], axis=-1).reshape(TABLE_SIZE, -1, 3)
    made = treated(srgb_decode(codes).astype(np.float32), after, 1.0)
    shape = (TABLE_SIZE, TABLE_SIZE, TABLE_SIZE, 3)
    return Cube(srgb_encode(np.clip(made, 0, 1)).reshape(shape).astype(np.float32), title=look.name)


def _by_colour_alone(treatment: Treatment) -> bool:
    """Whether the same colour becomes the same everywhere: greys and colours, laid out in two ways, agree."""
    rng = np.random.default_rng(7)
    picture = rng.uniform(0, 1, (12, 24, 3)).astype(np.float32)
    order = rng.permutation(12 * 24)
    mixed = picture.reshape(-1, 3)[order].reshape(12, 24, 3)
    one, other = (treated(p, (treatment,), 1.0).reshape(-1, 3) for p in (picture, mixed))
    return bool(np.allclose(one[order], other, atol=1e-5))
