"""Orchard House: a small made-up house of brick and timber as its architect would hand it over: an IFC in millimetres, unfurnished, in
placeholder colours. Written with ifcopenshell."""

from __future__ import annotations

from typing import Any

import ifcopenshell
import ifcopenshell.api.aggregate as aggregate
import ifcopenshell.api.context as contexts
import ifcopenshell.api.geometry as geometry
import ifcopenshell.api.root as root
import ifcopenshell.api.spatial as spatial
import ifcopenshell.api.style as styles
import ifcopenshell.api.unit as units
import numpy as np

NAME = "Orchard House"
#: Clear size of the house in mm, its walls, and its storey.
LENGTH, WIDTH, WALL, STOREY, SLAB = 9600.0, 6400.0, 300.0, 2700.0, 250.0
RIDGE = 2600.0
#: Windows and doors: name, wall, place along it, sill, width, height.
WINDOWS = (
    ("Window garden west", "south", 1200.0, 400.0, 2400.0, 2000.0), ("Window garden east", "south", 5400.0, 400.0, 2400.0, 2000.0),
    ("Window orchard", "east", 2000.0, 900.0, 1800.0, 1300.0), ("Window kitchen", "north", 1500.0, 1000.0, 1500.0, 1100.0),
    ("Window stair", "west", 2600.0, 900.0, 900.0, 1400.0),
)  # fmt: skip
#: The outer leaf of a wall, and the names of surfaces, all in one grey.
OUTER = 120.0
_SURFACES = ("Outer leaf", "Inner leaf", "Floor", "Ceiling", "Roof covering", "Paving", "Ground", "Frame")
DOOR = ("Front door", "north", 5600.0, 0.0, 1000.0, 2100.0)


class _House:
    """The file as it is drawn, element by element."""

    def __init__(self) -> None:
        self.file = ifcopenshell.file(schema="IFC4")
        project = root.create_entity(self.file, ifc_class="IfcProject", name=NAME)
        units.assign_unit(self.file, length={"is_metric": True, "raw": "MILLIMETERS"})
        model = contexts.add_context(self.file, context_type="Model")
        model.TrueNorth = self.file.create_entity("IfcDirection", (0.25, 0.97))
        self.body = contexts.add_context(
            self.file, context_type="Model", context_identifier="Body", target_view="MODEL_VIEW", parent=model
        )
        site = root.create_entity(self.file, ifc_class="IfcSite", name="The orchard (invented)")
        site.RefLatitude, site.RefLongitude, site.RefElevation = (51, 48, 0), (-2, -24, 0), 92_000.0
        building = root.create_entity(self.file, ifc_class="IfcBuilding", name=NAME)
        aggregate.assign_object(self.file, products=[site], relating_object=project)
        aggregate.assign_object(self.file, products=[building], relating_object=site)
        self.storeys = {}
        for name, height in (("Ground floor", 0.0), ("Roof", STOREY)):
            storey = root.create_entity(self.file, ifc_class="IfcBuildingStorey", name=name)
            storey.Elevation = height
            aggregate.assign_object(self.file, products=[storey], relating_object=building)
            self.storeys[name] = storey
        self.site = site
        self.colours: dict[str, Any] = {}

    def style(self, name: str, rgb: tuple[float, float, float], clear: float = 0.0) -> Any:
        if name not in self.colours:
            made = styles.add_style(self.file, name=name)
            colour = dict(zip(("Red", "Green", "Blue"), rgb, strict=True))
            styles.add_surface_style(
                self.file, style=made, ifc_class="IfcSurfaceStyleShading",
                attributes={"SurfaceColour": {"Name": None, **colour}, "Transparency": clear},
            )  # fmt: skip
            self.colours[name] = made
        return self.colours[name]

    def add(
        self,
        kind: str,
        name: str,
        parts: list[tuple[list[tuple[float, float, float]], list[tuple[int, ...]], Any]],
        storey: str,
    ) -> None:
        """An element of closed shapes, each with corners in mm, faces and a style."""
        element = root.create_entity(self.file, ifc_class=kind, name=name)
        geometry.edit_object_placement(self.file, product=element)
        items = []
        for corners, faces, style in parts:
            points = self.file.create_entity("IfcCartesianPointList3D", [[float(v) for v in c] for c in corners])
            polygons = [self.file.create_entity("IfcIndexedPolygonalFace", [k + 1 for k in face]) for face in faces]
            item = self.file.create_entity("IfcPolygonalFaceSet", points, True, polygons)
            if style is not None:
                self.file.create_entity("IfcStyledItem", item, [style])
            items.append(item)
        shape = self.file.create_entity("IfcShapeRepresentation", self.body, "Body", "Tessellation", items)
        geometry.assign_representation(self.file, product=element, representation=shape)
        holder = self.storeys.get(storey, self.site)
        spatial.assign_container(self.file, products=[element], relating_structure=holder)


def _box(low: tuple[float, float, float], high: tuple[float, float, float]) -> tuple[list[Any], list[Any]]:
    corners = [((low, high)[k & 1][0], (low, high)[k >> 1 & 1][1], (low, high)[k >> 2][2]) for k in range(8)]
    return corners, [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]


def _walls() -> dict[str, tuple[np.ndarray[Any, Any], np.ndarray[Any, Any], float]]:
    """Of each wall: its outer corner in plan, the direction along it seen from inside to the right or up, and its length."""
    w, length, width = WALL, LENGTH + 2 * WALL, WIDTH + 2 * WALL
    return {
        "south": (np.array([-w, -w]), np.array([1.0, 0.0]), length), "north": (np.array([-w, WIDTH]), np.array([1.0, 0.0]), length),
        "west": (np.array([-w, 0.0]), np.array([0.0, 1.0]), width - 2 * w), "east": (np.array([LENGTH, 0.0]), np.array([0.0, 1.0]), width - 2 * w),
    }  # fmt: skip


def _piece(
    wall: str, begin: float, end: float, low: float, high: float, inset: float = 0.0, thick: float = WALL
) -> tuple[list[Any], list[Any]]:
    """A box of a wall from one place along it to another."""
    corner, along, _ = _walls()[wall]
    across = np.array([along[1], along[0]])
    a = corner + along * begin + across * inset
    b = corner + along * end + across * (inset + thick)
    return _box((a[0], a[1], low), (b[0], b[1], high))


def make_ifc() -> bytes:
    """The house as an IFC file, the same but for its identifiers on every run."""
    house = _House()
    grey = {name: house.style(name, (0.8, 0.8, 0.8)) for name in _SURFACES}
    glass = house.style("Glass", (0.9, 0.95, 0.95), 0.85)
    for wall, (_, _, length) in _walls().items():
        house.add(
            "IfcWall", f"Wall {wall}", _leaves(wall, length, grey["Outer leaf"], grey["Inner leaf"]), "Ground floor"
        )
    for window in WINDOWS:
        house.add("IfcWindow", window[0], _window(window, grey["Frame"], glass), "Ground floor")
    name, wall, begin, sill, wide, high = DOOR
    door = (*_piece(wall, begin, begin + wide, sill, sill + high, 110.0, 60.0), grey["Frame"])
    house.add("IfcDoor", name, [door], "Ground floor")
    slabs = {
        "Floor": ("Floor", (0, 0, -SLAB), (LENGTH, WIDTH, 0)), "Ceiling": ("Ceiling", (0, 0, STOREY), (LENGTH, WIDTH, STOREY + 200)),
        "Terrace": ("Paving", (0, -3400, -SLAB), (LENGTH, -WALL, -60)), "Plot": ("Ground", (-60_000, -60_000, -1200), (70_000, 60_000, -SLAB)),
    }  # fmt: skip
    for name, (style, low, high_corner) in slabs.items():
        kind = "IfcGeographicElement" if name == "Plot" else "IfcSlab"
        house.add(kind, name, [(*_box(low, high_corner), grey[style])], "" if name == "Plot" else "Ground floor")
    house.add(
        "IfcWall", "Partition", [(*_box((3600, 3600, 0), (3720, WIDTH, STOREY)), grey["Inner leaf"])], "Ground floor"
    )
    house.add("IfcSlab", "Plinth", [(*part, grey["Outer leaf"]) for part in _plinth()], "Ground floor")
    house.add("IfcRoof", "Roof", [(*_roof(side), grey["Roof covering"]) for side in (-1, 1)], "Roof")
    house.add("IfcWall", "Gables", [(*_gable(x), grey["Outer leaf"]) for x in (-WALL, LENGTH)], "Roof")
    for k, x in enumerate((2400.0, 6600.0)):
        light = root.create_entity(house.file, ifc_class="IfcLightFixture", name=f"Ceiling light {k + 1}")
        matrix = np.eye(4)
        matrix[:3, 3] = (x / 1000, WIDTH / 2000, (STOREY - 350) / 1000)
        geometry.edit_object_placement(house.file, product=light, matrix=matrix)
        spatial.assign_container(house.file, products=[light], relating_structure=house.storeys["Ground floor"])
    return str(house.file.to_string()).encode()


def _leaves(wall: str, length: float, outer: Any, inner: Any) -> list[tuple[list[Any], list[Any], Any]]:
    """The two leaves of a wall, around its windows and doors, up to the roof's foot."""
    holes = sorted([(w[2], w[3], w[4], w[5]) for w in (*WINDOWS, DOOR) if w[1] == wall])
    outward = wall in ("north", "east")  # across a wall is measured from its southern or western face
    leaves = (
        ((inner, 0.0, WALL - OUTER), (outer, WALL - OUTER, OUTER))
        if outward
        else ((outer, 0.0, OUTER), (inner, OUTER, WALL - OUTER))
    )
    # Under the eaves a wall ends within the roof, and not above it.
    top, parts = STOREY + (150 if wall in ("north", "south") else 200), []
    for style, inset, thick in leaves:
        at = 0.0
        for begin, sill, wide, high in holes:
            pieces = [(at, begin, 0.0, top), (begin, begin + wide, sill + high, top)]
            pieces += [(begin, begin + wide, 0.0, sill)] if sill > 0 else []
            parts += [(*_piece(wall, *piece, inset, thick), style) for piece in pieces]
            at = begin + wide
        parts.append((*_piece(wall, at, length, 0.0, top, inset, thick), style))
    return parts


def _window(
    window: tuple[str, str, float, float, float, float], frame: Any, glass: Any
) -> list[tuple[list[Any], list[Any], Any]]:
    """A frame with a post in the middle, and its two panes."""
    _, wall, begin, sill, wide, high = window
    bar, deep, end, top, middle = 60.0, 70.0, begin + wide, sill + high, begin + wide / 2
    edges = [
        (begin, begin + bar, sill, top), (end - bar, end, sill, top), (begin + bar, end - bar, sill, sill + bar),
        (begin + bar, end - bar, top - bar, top), (middle - bar / 2, middle + bar / 2, sill + bar, top - bar),
    ]  # fmt: skip
    parts = [(*_piece(wall, a, b, low, up, 110.0, deep), frame) for a, b, low, up in edges]
    for a, b in ((begin + bar, middle - bar / 2), (middle + bar / 2, end - bar)):
        parts.append((*_piece(wall, a, b, sill + bar, top - bar, 135.0, 20.0), glass))
    return parts


def _plinth() -> list[tuple[list[Any], list[Any]]]:
    """What the walls stand on, a little below the floor."""
    a, b = LENGTH + WALL, WIDTH + WALL
    return [
        _box((-WALL, -WALL, -SLAB), (a, 0, 0)), _box((-WALL, WIDTH, -SLAB), (a, b, 0)),
        _box((-WALL, 0, -SLAB), (0, WIDTH, 0)), _box((LENGTH, 0, -SLAB), (a, WIDTH, 0)),
    ]  # fmt: skip


def _roof(side: int) -> tuple[list[Any], list[Any]]:
    """One slope of the roof, 220 mm thick, 500 mm over the eaves and the gables."""
    middle, over, thick = WIDTH / 2, 500.0, 220.0
    eaves = middle + side * (middle + WALL + over)
    base = STOREY + 200
    drop = RIDGE * (over + WALL) / middle
    a, b = -WALL - over, LENGTH + WALL + over
    corners = [
        (a, eaves, base - drop), (b, eaves, base - drop), (b, middle, base + RIDGE), (a, middle, base + RIDGE),
        (a, eaves, base - drop + thick), (b, eaves, base - drop + thick), (b, middle, base + RIDGE + thick), (a, middle, base + RIDGE + thick),
    ]  # fmt: skip
    faces = [(3, 2, 1, 0), (4, 5, 6, 7), (0, 1, 5, 4), (1, 2, 6, 5), (2, 3, 7, 6), (3, 0, 4, 7)]
    return corners, faces if side < 0 else [face[::-1] for face in faces]


def _gable(x: float) -> tuple[list[Any], list[Any]]:
    low, base = (0.0, WIDTH, WIDTH / 2), STOREY + 200
    front = [(x, low[0], base), (x, low[1], base), (x, low[2], base + RIDGE)]
    back = [(x + WALL, y, z) for _, y, z in front]
    return front + back, [(0, 2, 1), (3, 4, 5), (0, 1, 4, 3), (1, 2, 5, 4), (2, 0, 3, 5)]
