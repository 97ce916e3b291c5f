"""Answers about leaf shadow: places for trees in the sun's line to a patch, each tried with a tree that is really put there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, replace
from functools import lru_cache
from typing import Any

import numpy as np
from PIL import Image

from valleylight.core.errors import InputError
from valleylight.core.finish.look import encode
from valleylight.core.measure import leafshadow
from valleylight.core.objects import FAMILIES, Family, family_of, made
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.build import name_of
from valleylight.core.project.description import Made, Occasion, Placement
from valleylight.core.stage import read_glb
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.server.found import data_url
from valleylight.server.messages import questions as q
from valleylight.server.worker.desk import Desk

#: Where trees are found in the catalogue.
TREES = "Trees and shrubs"
TRIED = "Tree that is tried"
#: Of offers that are tried, those that shade less than this share of the lit patch, or all but this, are none.
LEAST_SHADE = 0.04
#: Pixels on a side of the picture of a patch.
SIDE = 192
#: What is unlit in the picture of a patch still shows: the sky lights it.
SKYLIT = 0.1


def _offers(asked: q.LeafShadow, desk: Desk) -> list[dict[str, Any]]:
    project, compiler = desk.project(asked), desk.compiler
    if not project.description.views:
        raise InputError("there is no view yet", "views", "Add a view first")
    view, occasion = project.description.views[0], project.description.occasion(asked.occasion)
    scene = compiler.scene(project, view, occasion, 16, 9, 1, SKETCH)
    patch = leafshadow.Patch(asked.point, asked.normal, asked.reach_m)
    bare = leafshadow.lit_share(scene, patch)
    offers = []
    for place in leafshadow.places(scene, patch, [_shape(f.key) for f in FAMILIES if f.group == TREES]):
        family = family_of(place.key)
        numbers = _numbers(family, place.height_m, occasion)
        best = None
        for spot in leafshadow.beside(scene, _shape(place.key), place):
            tried = _with_tree(project, spot, numbers)
            lit = leafshadow.lit_share(compiler.scene(tried, view, occasion, 16, 9, 1, SKETCH), patch)
            shade, pattern = leafshadow.dappling(bare, lit)
            if LEAST_SHADE <= shade <= 1 - LEAST_SHADE and (best is None or pattern > best[1]):
                best = (shade, pattern, spot, lit)
        if best is not None:
            shade, _, spot, lit = best
            offers.append({
                **{k: v for k, v in asdict(spot).items() if k != "key"}, "family": place.key, "name": family.name,
                "parameters": numbers, "shade": shade, "picture": _picture(lit),
            })  # fmt: skip
    return offers


def _numbers(family: Family, height: float, occasion: Occasion) -> dict[str, float]:
    """The numbers of a tree as it stands in the occasion's season."""
    wanted = {"height": height}
    season = next((p for p in family.parameters if p.key == "season"), None)
    if season is not None:
        wanted["season"] = float(("summer", "autumn", "winter").index(occasion.season))
    return family.values(wanted)


def _with_tree(project: LoadedProject, place: leafshadow.TreePlace, numbers: Mapping[str, float]) -> LoadedProject:
    """The project with a tree in a place; nothing of it is kept."""
    data = made(family_of(place.key), numbers)
    asset = name_of(data)
    tree = Placement(
        key="tree-that-is-tried", name=TRIED, asset=asset, position=place.position, made=Made(family=place.key)
    )
    description = project.description
    more = description.model_copy(update={"placements": (*description.placements, tree)})
    return replace(project, description=more, asset=lambda sha: data if sha == asset else project.asset(sha))


@lru_cache(maxsize=64)
def _shape(key: str) -> leafshadow.TreeShape:
    """Heights and crown of a kind, from a tree of its usual height: where nine tenths of what hangs on it stand."""
    family = family_of(key)
    height = next(p for p in family.parameters if p.key == "height")
    stage = read_glb(made(family, {"height": height.first}), family.name)
    points = [
        stage.meshes[i.mesh].points[stage.meshes[i.mesh].triangles].mean(1) @ i.matrix[:3, :3].T + i.matrix[:3, 3]
        for i in stage.instances
    ]
    spots = np.concatenate(points) / height.first
    low, high = np.percentile(spots[:, 2], [5, 95])
    radius = float(np.percentile(np.hypot(spots[:, 0], spots[:, 1]), 95))
    return leafshadow.TreeShape(
        key, height.least, height.most, height.first, float(low + high) / 2, float(high - low) / 2, radius
    )


def _picture(lit: np.ndarray[Any, Any]) -> str:
    """The patch as the sun lights it, as text that a page can show."""
    tone = encode(np.repeat((SKYLIT + (1 - SKYLIT) * lit)[..., None], 3, 2).astype(np.float32) * 0.8)
    return data_url(np.asarray(Image.fromarray(tone).resize((SIDE, SIDE), Image.Resampling.BICUBIC)))


ANSWERS: dict[type[q.Question], Any] = {q.LeafShadow: _offers}
