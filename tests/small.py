"""A small room for tests: quick to build and to trace, through the same doors as any project."""

from __future__ import annotations

import hashlib
from datetime import datetime

from valleylight.core.making.glb import Model, Surface, Thing, write_glb
from valleylight.core.making.shapes import box, polygon
from valleylight.core.project import (
    Fixture,
    FixtureKind,
    Lens,
    LoadedProject,
    Occasion,
    Placement,
    Project,
    Site,
    View,
)
from valleylight.demo.profiles import CATALOGUE, profile_file
from valleylight.validation.stages import project_of as scene_of
from valleylight.validation.stages import quad, sphere

__all__ = ["project", "quad", "room_glb", "scene_of", "sphere"]


def room_glb() -> bytes:
    """A room of 6 x 4 x 3 m with a window in its south wall, a table, and ground outside."""
    model = Model(generator="Valleylight demo")  # the bytes that dumps of earlier databases name
    model.surface(Surface("plaster", (0.7, 0.7, 0.68), 0.9))
    model.surface(Surface("oak", (0.4, 0.28, 0.16), 0.5))
    model.surface(Surface("glass", (0.96, 0.98, 0.97), 0.0, transmission=1.0))
    room = Thing("room")
    room.add("plaster", box([0, 0, -0.1], [6, 4, 0]), box([0, 0, 3], [6, 4, 3.1]), box([0, 4, 0], [6, 4.2, 3]))
    room.add("plaster", box([-0.2, 0, 0], [0, 4, 3]), box([6, 0, 0], [6.2, 4, 3]))
    room.add("plaster", box([0, -0.2, 0], [2, 0, 3]), box([4, -0.2, 0], [6, 0, 3]))
    room.add("plaster", box([2, -0.2, 0], [4, 0, 0.8]), box([2, -0.2, 2.4], [4, 0, 3]))
    room.add("glass", polygon([(2, -0.1, 0.8), (4, -0.1, 0.8), (4, -0.1, 2.4), (2, -0.1, 2.4)]))
    room.add("oak", box([2.2, 1.2, 0.7], [4.0, 2.0, 0.75], 0.004))
    model.put(room)
    model.put(
        Thing("ground").add("plaster", polygon([(-30, -30, -0.1), (30, -30, -0.1), (30, 30, -0.1), (-30, 30, -0.1)])),
        "ground",
    )
    model.openings.append({"centre": [3, -0.1, 1.6], "half_u": [1, 0, 0], "half_v": [0, 0, 0.8], "inward": [0, 1, 0]})
    return write_glb(model)


def project() -> LoadedProject:
    """Two views, two occasions, two fixtures of the demo's catalogue."""
    files = {}

    def keep(data: bytes) -> str:
        sha = hashlib.sha256(data).hexdigest()
        files[sha] = data
        return sha

    luminaires = [lu for lu in CATALOGUE if lu.key in ("downlight-medium", "globe-pendant")]
    kinds = tuple(
        FixtureKind(key=lu.key, name=lu.name, profile=keep(profile_file(lu)), body=lu.body, kelvin=lu.kelvin)
        for lu in luminaires
    )
    description = Project(
        name="Small room",
        site=Site(place="Nowhere", latitude_deg=46.6, longitude_deg=9.8, time_zone="Europe/Zurich"),
        placements=(Placement(key="room", name="room.glb", asset=keep(room_glb())),),
        views=(
            View(key="inside", name="Inside", position=(5.5, 3.6, 1.5), target=(2.5, 0.6, 1.2), focal_mm=20,
                 lens=Lens(f_number=5.6, shutter_s=1 / 30, iso=200)),
            View(key="outside", name="Outside", position=(9, -8, 1.6), target=(3, 0, 1.4), lens=Lens(f_number=11, shutter_s=1 / 125)),
        ),
        occasions=(
            Occasion(key="noon", name="Noon", when=datetime(2026, 6, 21, 13, 20), levels={"Ceiling": 0.0}),
            Occasion(key="night", name="Night", when=datetime(2026, 1, 12, 22, 0)),
        ),
        kinds=kinds,
        fixtures=(
            Fixture(key="a", kind="downlight-medium", group="Ceiling", position=(1.5, 2, 2.9), aim=(1.5, 2, 0)),
            Fixture(key="b", kind="globe-pendant", group="Pendants", position=(4.5, 2, 2.2), aim=(4.5, 2, 0)),
        ),
    )  # fmt: skip
    return LoadedProject(description, files.__getitem__)
