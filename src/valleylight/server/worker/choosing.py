"""The picture on the bench under other looks, small, and where a treatment's limit holds in it: for choosing by eye."""

from __future__ import annotations

import io
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from valleylight.core.errors import InputError
from valleylight.core.film.film import Film
from valleylight.core.film.jpeg import jpeg
from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.finish.look import apply, apply_linear
from valleylight.core.finish.seen import needs_masks, seen_of
from valleylight.core.project.description import Lens
from valleylight.core.treatments.reach import shrunk
from valleylight.server.messages import questions as q

Picture = NDArray[np.float32]
QUALITY = 86
#: Colour of the overlay of a limit, and how much of it is laid on at most.
MARK, MOST = (205, 40, 140), 170


def tried(asked: q.TryLooks, film: Film, linear: Picture, lens: Lens, read: Callable[[str], bytes]) -> list[bytes]:
    """JPEG pictures of the film under looks, about so wide as is asked. What a look limits to things that the film does not know holds
    nowhere: it is for choosing, and the film of a look that is taken knows them."""
    small, white = shrunk(linear, asked.width), saturation_luminance(lens)
    return [jpeg(apply(small, look, None, white, seen_of(film, look, read)), QUALITY) for look in asked.looks]


def marked(asked: q.MarkLimit, film: Film, linear: Picture, lens: Lens, read: Callable[[str], bytes]) -> bytes:
    """PNG (RGBA) of where the limit of a treatment of a look holds, to be laid over the picture; empty where it has none.

    Raises InputError where the look holds no such treatment.
    """
    look = asked.look
    if asked.number >= len(look.treatments):
        raise InputError(f"the look holds no treatment {asked.number}", "number", "Choose one of its treatments")
    if needs_masks(look) and not film.masks.size:
        raise InputError(
            "the picture does not know yet which thing is seen where", "limit", "Wait until it has been traced for this look"
        )  # fmt: skip
    small = shrunk(linear, asked.width)
    treatment, seen = look.treatments[asked.number], seen_of(film, look, read)
    before = look.model_copy(update={"treatments": look.treatments[: asked.number]})
    picture = apply_linear(small, before, saturation_luminance(lens), seen)
    share = np.zeros(small.shape[:2], np.float32) if treatment.limit is None else treatment.limit.weight(picture, seen)
    overlay = np.empty((*share.shape, 4), np.uint8)
    overlay[..., :3] = MARK
    overlay[..., 3] = np.round(share * MOST)
    out = io.BytesIO()
    Image.fromarray(overlay).save(out, "PNG", compress_level=3)
    return out.getvalue()
