"""A light mesh of a stage for a working view: what is near the work, without planting and small things, in its surfaces' colours."""

from __future__ import annotations

import json
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import srgb_encode
from valleylight.core.stage.model import Material, StageData
from valleylight.core.stage.plausibility import mean_colour

MOST_TRIANGLES = 120_000
#: Opacity of a pane as it is drawn, of 255.
PANE = 70
#: Objects beyond so many have no name in the mesh.
MOST_OBJECTS = 65_535


@dataclass(frozen=True)
class WorkingMesh:
    """Triangles (T, 3, 3) float32 in metres about a point (3,), the largest first: the first of them are a coarser mesh. Colours (T, 4)
    uint8, sRGB and opacity; the number of each triangle's object (T,) uint16 among `names`."""

    origin: NDArray[np.float64]
    triangles: NDArray[np.float32]
    colours: NDArray[np.uint8]
    objects: NDArray[np.uint16]
    names: tuple[str, ...]

    def packed(self) -> bytes:
        """Little-endian: the point as three float64; how many triangles and how many bytes of names, uint32; corners; colours; numbers of
        objects; names as JSON."""
        names = json.dumps(self.names).encode()
        head = self.origin.astype("<f8").tobytes() + np.array([len(self.triangles), len(names)], "<u4").tobytes()
        return bytes(
            head
            + self.triangles.astype("<f4").tobytes()
            + self.colours.tobytes()
            + self.objects.astype("<u2").tobytes()
            + names
        )


def working_mesh(
    stage: StageData, low: NDArray[np.float64], high: NDArray[np.float64], hidden: frozenset[str]
) -> WorkingMesh:
    """What of a dressed stage reaches into a box, without what stands on `hidden` layers, the largest triangles, MOST_TRIANGLES at the
    most; given about a point in whole metres, for survey coordinates have more digits than single precision."""
    corners, colours, objects = [], [], []
    shown = np.array([_colour(m, stage) for m in stage.materials] or [(128, 128, 128, 255)], np.uint8)
    names: dict[str, int] = {}
    for instance in stage.instances:
        if instance.layer in hidden:
            continue
        mesh = stage.meshes[instance.mesh]
        points = mesh.points.astype(float) @ instance.matrix[:3, :3].T + instance.matrix[:3, 3]
        if not len(points) or (points.max(0) < low).any() or (points.min(0) > high).any():
            continue
        t = points[mesh.triangles]
        near = ((t.max(1) > low) & (t.min(1) < high)).all(1)
        corners.append(t[near])
        colours.append(shown[mesh.material[near]])
        number = names.setdefault(instance.name, min(len(names), MOST_OBJECTS))
        objects.append(np.full(int(near.sum()), number, np.uint16))
    origin = np.round((low + high) / 2)
    if not corners:
        return WorkingMesh(
            origin, np.zeros((0, 3, 3), np.float32), np.zeros((0, 4), np.uint8), np.zeros(0, np.uint16), ()
        )
    triangles = np.concatenate(corners)
    area = np.linalg.norm(np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]), axis=1)
    order = np.argsort(-area, kind="stable")[:MOST_TRIANGLES]
    return WorkingMesh(
        origin, np.asarray(triangles[order] - origin, np.float32), np.concatenate(colours)[order], np.concatenate(objects)[order],
        tuple(names)[:MOST_OBJECTS],
    )  # fmt: skip


def _colour(material: Material, stage: StageData) -> tuple[int, int, int, int]:
    """A material as it is drawn: sRGB and opacity, 0 to 255."""
    if material.emits:
        lit = np.array(material.emission) / max(material.emission)
        return (*_codes(lit), 255)
    if material.thin_glass or material.solid_glass:
        return (*_codes(np.array(material.tint) * 0.75), PANE)
    metal = (0.55, 0.53, 0.5) if material.conductor else None
    return (*_codes(np.array(metal) if metal else mean_colour(material, stage)), 255)


def _codes(linear: NDArray[np.float64]) -> tuple[int, int, int]:
    r, g, b = (np.round(255 * srgb_encode(np.clip(linear, 0, 1)))).astype(int).tolist()
    return r, g, b
