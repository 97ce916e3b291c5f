"""Building models (ISO 16739: IFC 2x3, IFC 4, IFC 4.3), read by ifcopenshell, with what they know of site, storeys and classes."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element as elements
import ifcopenshell.util.placement as placements
import ifcopenshell.util.unit as units
import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.making.glb import Model, Offer, Surface, Thing, write_glb
from valleylight.core.making.shapes import of_triangles

#: Grey for what the file gives no colour: a placeholder, see stage/plausibility.py.
_UNCHOSEN = (0.8, 0.8, 0.8)
#: What is no part of the building to be seen.
_UNSEEN = ("IfcOpeningElement", "IfcSpace", "IfcGrid", "IfcAnnotation", "IfcVirtualElement")
#: Corners farther than this from their own zero are given about their middle, for single precision is not enough there.
_FAR_M = 1000.0
_REMEDY = "Export the building model again, as IFC 4 or as glTF"


def read_ifc(data: bytes, path: str, tell: Callable[[float], None] = lambda share: None) -> tuple[bytes, list[str]]:
    """A building model as glTF in metres, and words; `tell` hears which share of its elements is read. Raises InputError that names the file and what is wrong with it."""
    if not data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n").startswith(b"ISO-10303-21"):
        raise InputError("it does not begin as a building model does (ISO-10303-21)", path, _REMEDY)
    if b"END-ISO-10303-21" not in data[-4096:]:
        raise InputError("the file is cut off: its last line is not there", path, "Copy it again, or export it again")
    try:
        file = ifcopenshell.file.from_string(data.decode("utf-8", "replace"))
        return _Reader(file, path).glb(tell)
    except (InputError, MemoryError):
        raise
    except Exception as error:  # whatever the library met means that the file is not as it should be
        raise InputError(
            f"it cannot be read as IFC ({type(error).__name__}: {str(error)[:120]})", path, _REMEDY
        ) from None


class _Reader:
    def __init__(self, file: Any, path: str) -> None:
        self._file, self._path = file, path
        self._model, self._words = Model(), list[str]()
        self._things: dict[str, tuple[int, NDArray[np.float64]]] = {}
        self._glazed = 0

    def glb(self, tell: Callable[[float], None]) -> tuple[bytes, list[str]]:
        settings = ifcopenshell.geom.settings()
        iterator = ifcopenshell.geom.iterator(settings, self._file, 2, exclude=list(_UNSEEN))
        lost = solid = told = 0
        if iterator.initialize():
            while True:
                made = self._take(iterator.get())
                lost += made is None
                solid += made is False
                if iterator.progress() > told:
                    told = iterator.progress()
                    tell(told / 100)
                if not iterator.next():
                    break
        if not self._model.places:
            raise InputError("the building model holds no shapes", self._path, "Export it with its geometry")
        if lost:
            self._words.append(f"{lost} elements have shapes without triangles and were left out.")
        if solid:
            self._words.append(
                f"{solid} windows are solid in the file: no daylight enters by them until their panes have a surface of glass."
            )
        if self._glazed:
            one = self._glazed == 1
            self._words.append(
                f"{self._glazed} {'window has' if one else 'windows have'} panes and {'becomes an opening' if one else 'become openings'} for daylight."
            )
        self._tell_unit()
        self._offer_fixtures()
        self._tell_site()
        return write_glb(self._model), self._words

    def _take(self, shape: Any) -> bool | None:
        """Add an element. None where it has no triangles, False for a window without glass."""
        element = self._file.by_guid(shape.guid)
        geometry = shape.geometry
        matrix = np.array(shape.transformation.matrix, float).reshape(4, 4).T
        known = self._things.get(geometry.id)
        if known is None:
            known = self._thing(geometry, shape.name or _class_word(shape.type))
            if known is None:
                return None
            self._things[geometry.id] = known
        number, middle = known
        matrix = matrix.copy()
        matrix[:3, 3] += matrix[:3, :3] @ middle
        thing = self._model.things[number]
        name = shape.name or f"{_class_word(shape.type)} {element.id()}"
        if thing.name != name:  # the same shape under another name
            self._model.things.append(Thing(name, thing.shapes))
            number = len(self._model.things) - 1
        self._model.places.append((number, matrix[None], _layer(element, shape.type)))
        clear = any(self._model.surfaces[s].opacity < 1 for s in thing.shapes)
        self._glazed += clear and shape.type == "IfcWindow"
        return clear or shape.type != "IfcWindow"

    def _thing(self, geometry: Any, name: str) -> tuple[int, NDArray[np.float64]] | None:
        points = np.array(geometry.verts, float).reshape(-1, 3)
        faces = np.array(geometry.faces, int).reshape(-1, 3)
        good = np.isfinite(points).all(1)
        which = np.array(geometry.material_ids, int)
        kept = good[faces].all(1)
        faces, which = faces[kept], which[kept] if len(which) == len(kept) else np.full(int(kept.sum()), -1)
        if not len(faces):
            return None
        if not kept.all():
            self._words.append(
                f"{int((~kept).sum())} triangles of {name!r} have corners that are no numbers and were left out."
            )
        middle = points[good].mean(0) if np.abs(points[good]).max() > _FAR_M else np.zeros(3)
        thing = Thing(name)
        for k in np.unique(which):
            thing.add(
                self._surface(geometry.materials[int(k)] if k >= 0 else None),
                of_triangles(points - middle, faces[which == k]),
            )
        self._model.things.append(thing)
        return len(self._model.things) - 1, middle

    def _surface(self, material: Any) -> str:
        number = int(material.instance_id()) if material is not None else 0
        if number <= 0:  # the library's own colour for the class
            name, base, opacity = "Without a colour", _UNCHOSEN, 1.0
        else:
            name = (getattr(self._file.by_id(number), "Name", None) or "").strip() or f"Style {number}"
            base = tuple(float(np.clip(v, 0, 1)) for v in material.diffuse.components)  # type: ignore[assignment]
            told = float(material.transparency)
            opacity = 1.0 - (told if 0 <= told <= 1 else 0.0)
        known = self._model.surfaces.get(name)
        while known is not None and (known.base, known.opacity) != (base, opacity):
            name += " *"
            known = self._model.surfaces.get(name)
        if known is None:
            glass = opacity < 0.9
            self._model.surface(Surface(name, base, roughness=0.05 if glass else 0.8, opacity=opacity))
        return name

    def _tell_unit(self) -> None:
        unit = units.get_project_unit(self._file, "LENGTHUNIT")
        name = units.get_full_unit_name(unit).replace("_", " ").lower() if unit is not None else "metre"
        if name not in ("metre", "meter"):
            self._words.append(f"Its lengths are told by the {name} and were brought to metres.")

    def _offer_fixtures(self) -> None:
        for light in [*_all(self._file, "IfcLightFixture"), *self._lamps_of_2x3()]:
            matrix = placements.get_local_placement(light.ObjectPlacement) if light.ObjectPlacement else np.eye(4)
            scale = units.calculate_unit_scale(self._file)
            at = np.eye(4)
            at[:3, 3] = np.asarray(matrix, float)[:3, 3] * scale
            self._model.offers.append(Offer(light.Name or "Light fixture", at))

    def _lamps_of_2x3(self) -> list[Any]:
        """IFC 2x3 has no class for fixtures themselves: terminals whose type is one."""
        terminals = _all(self._file, "IfcFlowTerminal") if self._file.schema == "IFC2X3" else []
        return [t for t in terminals if (kind := elements.get_type(t)) is not None and kind.is_a("IfcLightFixtureType")]

    def _tell_site(self) -> None:
        told: dict[str, Any] = {}
        for site in _all(self._file, "IfcSite")[:1]:
            told["place"] = site.Name or ""
            if site.RefLatitude and site.RefLongitude:
                told["latitude_deg"] = _degrees(site.RefLatitude)
                told["longitude_deg"] = _degrees(site.RefLongitude)
            if site.RefElevation is not None:
                told["elevation_m"] = float(site.RefElevation) * units.calculate_unit_scale(self._file)
        for context in self._file.by_type("IfcGeometricRepresentationContext", include_subtypes=False):
            north = context.TrueNorth.DirectionRatios if context.TrueNorth else None
            if north and np.hypot(*north[:2]) > 0:
                # The direction of north in the model; +Y lies as far clockwise of it as it lies anticlockwise of +Y.
                told["north_deg"] = float(np.degrees(np.arctan2(-north[0], north[1])))
                break
        if told:
            self._model.extras = {"site": told}
        storeys = Counter(s.Name or "Storey" for s in _all(self._file, "IfcBuildingStorey"))
        if storeys:
            self._words.append(f"Its storeys became layers: {', '.join(list(storeys)[:12])}.")


def _all(file: Any, kind: str) -> list[Any]:
    """Entities of a class; none where the schema has no such class."""
    try:
        return list(file.by_type(kind))
    except RuntimeError:
        return []


def _class_word(kind: str) -> str:
    """`IfcCurtainWall` as people say it: Curtain wall."""
    word = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", kind.removeprefix("Ifc").removesuffix("StandardCase"))
    return word[:1] + word[1:].lower()


def _layer(element: Any, kind: str) -> str:
    """Storey and class of an element, as a layer's name."""
    container = elements.get_container(element)
    storey = (container.Name or _class_word(container.is_a())) if container is not None else ""
    return f"{storey} / {_class_word(kind)}" if storey else _class_word(kind)


def _degrees(parts: Any) -> float:
    """Degrees of an IfcCompoundPlaneAngleMeasure: degrees, minutes, seconds, millionths of a second, all of one sign."""
    degrees, minutes, seconds, *millionths = parts
    return degrees + minutes / 60 + (seconds + (millionths[0] if millionths else 0) / 1e6) / 3600
