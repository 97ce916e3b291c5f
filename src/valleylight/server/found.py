"""What is in a file or on a stage, in the figures that a person judges it by. Needs no tracer."""

from __future__ import annotations

import base64
import io
from collections import Counter
from typing import Any

import numpy as np
from PIL import Image

from valleylight.core.sky import picture as pictures
from valleylight.core.sky.dome import Dome
from valleylight.core.sky.view import dome_picture
from valleylight.core.stage import StageData
from valleylight.core.stage.model import boxes_of
from valleylight.core.stage.overview import frame_of, overview


def stage_figures(stage: StageData) -> dict[str, Any]:
    """Objects, triangles, materials, layers, size, notes, and a first view of a stage."""
    if not stage.instances:
        position, target = overview(np.full(3, -2.0), np.full(3, 2.0))
        return {
            "objects": 0, "triangles": 0, "materials": [], "layers": [], "weights": [], "size_m": [0, 0, 0], "notes": [],
            "overview": {"position": position, "target": target},
        }  # fmt: skip
    low, high = stage.bounds()
    position, target = overview(*frame_of(*boxes_of(stage.instances, stage.meshes)))
    shown = sum(len(stage.meshes[p.mesh].triangles) for p in stage.instances)
    return {
        "objects": len({p.name for p in stage.instances}), "triangles": shown,
        "materials": [m.name for m in stage.materials], "layers": list(stage.layers), "weights": _weights(stage),
        "size_m": [round(float(v), 3) for v in high - low], "notes": list(stage.notes),
        "overview": {"position": position, "target": target},
    }  # fmt: skip


def _weights(stage: StageData) -> list[dict[str, Any]]:
    """How much stands on each layer, in order of their names; what stands on none is left out."""
    count, triangles, held = Counter[str](), Counter[str](), dict[str, set[int]]()
    for i in stage.instances:
        count[i.layer] += 1
        triangles[i.layer] += len(stage.meshes[i.mesh].triangles)
        held.setdefault(i.layer, set()).add(i.mesh)
    return [
        {
            "layer": layer, "pieces": count[layer], "triangles": triangles[layer],
            "kept": sum(len(stage.meshes[k].triangles) for k in held[layer]),
        }
        for layer in stage.layers
    ]  # fmt: skip


def picture_figures(data: bytes, name: str) -> dict[str, Any]:
    """Read a picture of surroundings and say what is in it."""
    made = pictures.read_picture(data, name)
    spot = made.spot
    small = Dome(made.rgb).reduced(256).rgb
    level = pictures.horizontal_lx(made)
    note = (
        f"The brightest spot gives {spot.share:.0%} of the light that faces it: it becomes a sun with crisp shadow."
        if spot.is_sun
        else "Overcast picture: no cast shadow."
    )
    return {
        "name": name, "width": made.size[0], "height": made.size[1], "horizontal_lx": level,
        "sun": {
            "azimuth_deg": spot.azimuth_deg, "altitude_deg": spot.altitude_deg, "size_deg": spot.size_deg, "share": spot.share,
            "is_sun": spot.is_sun,
        },
        "note": note, "picture": data_url(dome_picture(small)),
    }  # fmt: skip


def data_url(picture: np.ndarray[Any, Any]) -> str:
    """A picture (H, W, 3) uint8 as text that a page can show."""
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "PNG", compress_level=6)
    return "data:image/png;base64," + base64.b64encode(out.getvalue()).decode()
