"""Cut-outs of the catalogue: objects traced from the side they are seen from, under an even light, with the way each spot faces."""

from __future__ import annotations

import math
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from valleylight.core.compose.sides import SIDES, drawn_from, standing_family
from valleylight.core.compose.sprite import Sprite, sprite
from valleylight.core.errors import StoppedError
from valleylight.core.film.denoise import clean_picture
from valleylight.core.objects import made
from valleylight.core.preview.studio import in_surround, studio
from valleylight.core.project.description import Stage, View
from valleylight.core.project.placement import Made
from valleylight.core.stage import read_glb
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.quality import Quality

#: Rows of a sprite; half the angle of view, nearly none.
ROWS, HALF_ANGLE = 512, 0.02
QUALITY, SAMPLES = Quality("cut-out", 0, 0, max_bounces=2, clamp_stops=4.0, soften=0.2), 8
#: Luminance of the even surround; a white matt thing in the open would show it.
EVEN_CD_M2 = 1000.0


def sculpted(what: Made, side: int, stop: Callable[[], bool] = lambda: False) -> Sprite:
    """The sprite of a member of a family from one of its sides.

    Traced in an even surround, so its colour holds the shade of its own folds, and lit anew by its normals. Raises InputError for a
    family that is none of the STANDING ones, or numbers out of their limits; StoppedError once `stop` says so.
    """
    family = standing_family(what)
    side = drawn_from(family.key, side)
    stage = read_glb(made(family, what.parameters), family.key)
    low, high = stage.bounds()
    middle, half = (low + high) / 2, (high - low) / 2
    turn = math.radians(side * 360 / SIDES - 90)
    ahead = np.array([math.cos(turn), math.sin(turn), 0.0])
    across = float(abs(half[0] * math.sin(turn)) + abs(half[1] * math.cos(turn))) + 0.01 * half[2]
    up = float(half[2]) * 1.01
    rows = ROWS
    columns = max(round(rows * across / up), 8)
    if columns > 2 * ROWS:
        rows, columns = max(round(rows * 2 * ROWS / columns), 8), 2 * ROWS
    shape = (min(columns, 8 * rows), rows)
    distance = across / HALF_ANGLE
    view = View(
        key="v", name="v", position=tuple((middle + ahead * distance).tolist()), target=tuple(middle.tolist()),
        focal_mm=100.0, film_width_mm=200.0 * HALF_ANGLE, format=shape, keep_verticals=False,
    )  # fmt: skip
    project, compiler = studio(stage, view, settings=Stage(find_openings=False))
    occasion = project.description.occasions[0]
    scene = in_surround(compiler.scene(project, view, occasion, *shape, 1, QUALITY), EVEN_CD_M2)
    film = new_film(scene, view, occasion, *shape)
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        if trace(scene, film, 0, SAMPLES, pool, stop) is None:
            raise StoppedError
    passes = film.passes
    alpha = passes["alpha"]
    light = clean_picture(film.balanced(), *film.guides, "balanced") / EVEN_CD_M2 - (1 - alpha[..., None])
    colour = np.clip(light / np.maximum(alpha[..., None], 1e-3), 0, 1)
    seen = np.where(alpha[..., None] > 0, passes["normal"], 0)
    right = np.array([-ahead[1], ahead[0], 0.0])
    normal = np.stack([seen @ right, seen[..., 2], seen @ ahead], -1)
    normal /= np.maximum(np.linalg.norm(normal, axis=-1, keepdims=True), 1e-6)
    # A thin thing may be met from its back: what the lens sees faces it.
    normal = np.where(normal[..., 2:] < 0, normal * [-1, -1, -1], normal)
    return sprite(colour.astype(np.float32), alpha.astype(np.float32), normal.astype(np.float32))
