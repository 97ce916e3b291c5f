"""Cameras, punctual lights and the site of a glTF document (glTF 2.0, section 3.10; KHR_lights_punctual)."""

from __future__ import annotations

from typing import Any

import numpy as np
import pygltflib
from numpy.typing import NDArray

from valleylight.core.stage.gltf.values import Notes, checked_number, item_at
from valleylight.core.stage.offers import CameraOffer, LightOffer, Offers, Point, SiteOffer

#: So many cameras, and so many lights, are offered of one file.
MOST = 200
LONGEST_NAME = 80
_KINDS = {"point": "point", "spot": "spot", "directional": "distant"}


class Offered:
    """Gathers what nodes offer as they are walked."""

    def __init__(self, document: pygltflib.GLTF2, file: str, notes: Notes) -> None:
        self._doc, self._file, self._notes = document, file, notes
        table = (document.extensions or {}).get("KHR_lights_punctual") or {}
        lights = table.get("lights") if isinstance(table, dict) else None
        self._lights = lights if isinstance(lights, list) else []
        self._cameras: list[CameraOffer] = []
        self._found: list[LightOffer] = []

    def meet(self, node: dict[str, Any], index: int, matrix: NDArray[np.float64]) -> None:
        """Take what a node at a world matrix (4, 4) holds."""
        extension = (node.get("extensions") or {}).get("KHR_lights_punctual")
        extras = node.get("extras")
        place = isinstance(extras, dict) and extras.get("fixture")
        if node.get("camera") is None and not isinstance(extension, dict) and not place:
            return
        where = f"{self._file}, node {index}"
        ahead = matrix[:3, :3] @ (0.0, 0.0, -1.0)
        length = float(np.linalg.norm(ahead))
        if not np.isfinite(matrix).all() or not length > 0 or np.abs(matrix[:3, 3]).max() > 1e7:
            self._notes.add(f"A camera or light at node {index} stands nowhere and was left out.")
            return
        name = str(node.get("name") or "").strip()[:LONGEST_NAME]
        position, axis = _point(matrix[:3, 3]), _point(ahead / length)
        if node.get("camera") is not None and len(self._cameras) < MOST:
            self._camera(item_at(self._doc.cameras, node["camera"], where), name, position, axis)
        if isinstance(extension, dict) and len(self._found) < MOST:
            light = self._lights[item_at(self._lights, extension.get("light"), where)]
            self._light(light if isinstance(light, dict) else {}, name, position, axis, where)
        elif place and len(self._found) < MOST:
            self._found.append(LightOffer(name or "Fixture", "place", position, axis))

    def _camera(self, number: int, name: str, position: Point, ahead: Point) -> None:
        camera: Any = self._doc.cameras[number]
        name = name or str(camera.name or "")[:LONGEST_NAME] or f"Camera {number + 1}"
        if camera.type != "perspective" or camera.perspective is None:
            self._notes.add(f"Camera {name!r} has no perspective and was left out.")
            return
        across = checked_number(camera.perspective.yfov, 0.7, 0.02, 3.0, f"{self._file}, camera {number}")
        aspect = camera.perspective.aspectRatio
        wide = checked_number(aspect, 0.0, 0.0, 8.0, f"{self._file}, camera {number}") or None
        self._cameras.append(CameraOffer(name, position, ahead, float(np.degrees(across)), wide))

    def _light(self, light: dict[str, Any], name: str, position: Point, ahead: Point, where: str) -> None:
        name = name or str(light.get("name") or "")[:LONGEST_NAME] or "Light"
        kind = _KINDS.get(str(light.get("type")))
        if kind is None:
            self._notes.add(f"Light {name!r} is of an unknown kind and was left out.")
            return
        intensity = checked_number(light.get("intensity"), 1.0, 0.0, 1e9, where)
        if intensity <= 0:
            self._notes.add(f"Light {name!r} gives no light and was left out.")
            return
        raw = light.get("color")
        colour = [checked_number(v, 1.0, 0.0, 1.0, where) for v in raw[:3]] if isinstance(raw, list) else []
        rgb = (colour[0], colour[1], colour[2]) if len(colour) == 3 and max(colour) > 0 else (1.0, 1.0, 1.0)
        cone = light.get("spot")
        cone = cone if isinstance(cone, dict) else {}
        outer = checked_number(cone.get("outerConeAngle"), np.pi / 4, 0.01, np.pi / 2, where)
        inner = checked_number(cone.get("innerConeAngle"), 0.0, 0.0, outer, where)
        self._found.append(
            LightOffer(
                name, kind, position, ahead, None if kind == "distant" else intensity,
                intensity if kind == "distant" else None, rgb, float(np.degrees(inner)), float(np.degrees(outer)),
            )
        )  # fmt: skip

    def all(self) -> Offers:
        """What was found, with the site that the file's asset tells of."""
        extras = self._doc.asset.extras if self._doc.asset else None
        return Offers(tuple(self._cameras), tuple(self._found), _site(extras))


def _site(extras: Any) -> SiteOffer | None:
    told = extras.get("site") if isinstance(extras, dict) else None
    if not isinstance(told, dict):
        return None

    def number(name: str, least: float, most: float) -> float | None:
        value = told.get(name)
        if isinstance(value, bool) or not isinstance(value, int | float) or not least <= value <= most:
            return None
        return float(value)

    site = SiteOffer(
        str(told.get("place") or "")[:LONGEST_NAME].strip(), number("latitude_deg", -90, 90), number("longitude_deg", -180, 180),
        number("elevation_m", -500, 9000), number("north_deg", -360, 360),
    )  # fmt: skip
    return site if site != SiteOffer() else None


def _point(values: NDArray[np.float64]) -> Point:
    x, y, z = np.round(values, 6).tolist()
    return x, y, z
