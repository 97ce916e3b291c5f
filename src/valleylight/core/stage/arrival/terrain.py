"""True land as a model: a GeoTIFF of heights becomes ground about the project's site, finer near, in two surfaces."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.making.glb import Model, Surface, Thing, write_glb
from valleylight.core.nature import land
from valleylight.core.nature.heights import read_geotiff

Array = NDArray[np.float64]
#: Rings begin at the first and grow to the reach of the file; so many of them, and so many directions.
FIRST_M, RINGS, SECTORS = 4.0, 200, 480
#: Pixels along the picture that lies on it.
PICTURE = 1024


@dataclass(frozen=True)
class Where:
    """Where a project stands: latitude and longitude in degrees, and the azimuth of its Y axis."""

    latitude_deg: float
    longitude_deg: float
    north_deg: float = 0.0


def read_terrain(data: bytes, name: str, where: Where | None) -> tuple[bytes, list[str]]:
    """A GeoTIFF as GLB about the site, whose height lies at zero, and words about it. Raises InputError as `read_geotiff` does, and where
    no site is known."""
    if where is None:
        raise InputError(
            "heights lie about a site, and none is told", name, "Bring them into a project that has its place set"
        )
    ground = read_geotiff(data, where.latitude_deg, where.longitude_deg, None, name)
    reach = ground.cell_m * ground.height.shape[0] / 2
    c, s = np.cos(np.radians(where.north_deg)), np.sin(np.radians(where.north_deg))

    def height(x: Array, y: Array) -> Array:
        return ground.at(x * c + y * s, y * c - x * s)  # east and north of places in the model's frame

    radii = np.concatenate([[0.0], np.geomspace(min(FIRST_M, 0.1 * reach), reach, RINGS)])
    whole = land.mesh(height, radii, np.linspace(-np.pi, np.pi, SECTORS + 1))
    # Where trees end is not told by heights; slopes and hollows are.
    window = ground.window(2 * reach, PICTURE)
    covered = land.cover(window, 1e6)
    picture, relief = land.pictures(window, covered)
    middle = land.middles(whole)
    east, north = middle[:, 0] * c + middle[:, 1] * s, middle[:, 1] * c - middle[:, 0] * s
    green, bare = land.parted(whole, window.of(covered.bare, east, north))
    model, thing = Model(generator="Valleylight"), Thing("Land")
    for shape, surface in (
        (
            green,
            Surface("Land, green", roughness=0.95, specular=0.1, texture=picture, texture_m=2 * reach, leaf="grass"),
        ),
        (
            bare,
            Surface("Land, bare", roughness=0.95, specular=0.1, texture=picture, relief=relief, texture_m=2 * reach),
        ),
    ):
        if len(shape.triangles):
            model.surface(surface)
            # The picture lies by true east and north.
            x, y = shape.points[:, 0], shape.points[:, 1]
            shape.uv = np.stack([x * c + y * s + reach, -(y * c - x * s) + reach], 1)
            thing.add(surface.name, shape)
    model.put(thing)
    return write_glb(model), [
        f"Heights reach {reach:.0f} m about the site, from {ground.height.min():+.0f} to {ground.height.max():+.0f} m over it."
    ]
