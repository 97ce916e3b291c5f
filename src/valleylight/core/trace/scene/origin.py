"""A stage's own origin: rays are traced in single precision, so what is traced must lie near zero.

Survey coordinates have seven digits before the point, a single-precision number has seven in all. The origin is subtracted in
double precision before anything is laid out for the tracer; what goes in and comes out of the core keeps the model's coordinates.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.description import Occasion, Opening, Point, Project, View
from valleylight.core.stage.model import StageData

Array = NDArray[np.float64]
#: Origins lie on a grid some ten times as wide as the stage, a kilometre at most: a stage near zero keeps zero, and one that is changed
#: a little keeps its own.
WIDEST_STEP_M, LEAST_STEP_M = 1000.0, 0.1


def origin_of(stage: StageData, description: Project, view: View) -> Array:
    """The stage's own origin (3,) in metres: about the middle of its triangles, whatever strays from them; without a stage,
    of the fixtures, and without those the view's place."""
    step = WIDEST_STEP_M
    if stage.instances:
        heart = stage.heart()
        low, high = stage.bounds()
        step = float(np.clip(10 ** np.ceil(np.log10(max(10 * (high - low).max(), 1e-6))), LEAST_STEP_M, WIDEST_STEP_M))
    elif description.fixtures:
        heart = np.median(np.array([f.position for f in description.fixtures], float), axis=0)
    else:
        heart = np.array(view.position, float)
    return np.asarray(np.round(heart / step) * step + 0.0)


def stage_about(stage: StageData, origin: Array) -> StageData:
    """The stage as it stands about an origin."""
    if not origin.any():
        return stage
    shift = np.eye(4)
    shift[:3, 3] = -origin
    return replace(
        stage, instances=tuple(replace(p, matrix=shift @ p.matrix) for p in stage.instances),
        openings=_openings_about(stage.openings, origin),
    )  # fmt: skip


def described_about(
    description: Project, view: View, occasion: Occasion, origin: Array
) -> tuple[Project, View, Occasion]:
    """What is described in the model's coordinates, about an origin: fixtures, openings, the light net, the lens and the air."""
    if not origin.any():
        return description, view, occasion
    stage, air, net = description.stage, occasion.air, description.stage.light_net
    stage = stage.model_copy(update={
        "openings": _openings_about(stage.openings, origin),
        "light_net": net.model_copy(update={"low": _about(net.low, origin), "high": _about(net.high, origin)}),
    })  # fmt: skip
    fixtures = tuple(
        f.model_copy(update={"position": _about(f.position, origin), "aim": _about(f.aim, origin)})
        for f in description.fixtures
    )
    lens = {"position": _about(view.position, origin), "target": _about(view.target, origin)}
    if view.moves_to is not None:
        lens["moves_to"] = _about(view.moves_to, origin)
    air = air.model_copy(update={
        "low": _about(air.low, origin), "high": _about(air.high, origin), "base_height_m": air.base_height_m - float(origin[2]),
    })  # fmt: skip
    return (
        description.model_copy(update={"stage": stage, "fixtures": fixtures}), view.model_copy(update=lens),
        occasion.model_copy(update={"air": air}),
    )  # fmt: skip


def frame_about(cloud_frame: Array, origin: Array) -> Array:
    """The frame (8,) of a cloud field's shadow for points about an origin; see cloudshadow.through_cloud."""
    if not origin.any():
        return cloud_frame
    frame = cloud_frame.copy()
    frame[2:5] -= origin
    return frame


def _openings_about(openings: tuple[Opening, ...], origin: Array) -> tuple[Opening, ...]:
    return tuple(o.model_copy(update={"centre": _about(o.centre, origin)}) for o in openings)


def _about(point: Point, origin: Array) -> Point:
    return point[0] - float(origin[0]), point[1] - float(origin[1]), point[2] - float(origin[2])
