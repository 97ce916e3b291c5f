"""Answers about cut-outs: their pictures, and where they stand in the picture of a view."""

from __future__ import annotations

import io
from dataclasses import asdict
from typing import Any

import numpy as np
from PIL import Image

from valleylight.core.compose.light import sunlight_of
from valleylight.core.compose.seen import standing
from valleylight.core.compose.sprite import png_of
from valleylight.core.project.cutout import CutOut
from valleylight.core.trace.arrays.camera import camera_array
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.server.messages import questions as q
from valleylight.server.worker.desk import Desk

#: Where a picture is not that of a project, its cut-out stands here.
_NOWHERE: dict[str, Any] = {"key": "x", "name": "x", "view": "x", "place": (0.0, 0.0, 0.0)}


def _picture(asked: q.CutOutPicture, desk: Desk) -> bytes:
    if asked.made is not None:
        made = desk.sprites.of_made(asked.made, asked.side, desk.stop)
    else:
        made = desk.sprites.of(CutOut(**_NOWHERE, picture=asked.picture), (0.0, -1.0))
    with Image.open(io.BytesIO(png_of(made))) as image:
        image.thumbnail((2 * asked.rows, asked.rows), Image.Resampling.LANCZOS)
        out = io.BytesIO()
        image.save(out, "PNG")
    return out.getvalue()


def _standing(asked: q.CutOutsStanding, desk: Desk) -> list[dict[str, Any]]:
    project = desk.project(asked)
    view, occasion = asked.project.view(asked.view), asked.project.occasion(asked.occasion)
    cutouts = asked.project.cutouts_at(view.key, occasion.key)
    if not cutouts:
        return []
    scene = desk.compiler.scene(project, view, occasion, *view.pixels(1280), 1, SKETCH)
    camera = camera_array(view, view.lens_for(occasion.key).f_number, view.aspect)
    sun = sunlight_of(scene)
    lens = np.array(view.position)
    made = []
    for c in cutouts:
        way = lens - np.array(c.place)
        sprite = desk.sprites.of(c, (float(way[0]), float(way[1])), desk.stop)
        found = standing(c, sprite, camera, np.zeros(3), None if sun is None else sun.towards)
        if found is not None:
            made.append(asdict(found))
    return made


ANSWERS: dict[type[q.Question], Any] = {q.CutOutPicture: _picture, q.CutOutsStanding: _standing}
