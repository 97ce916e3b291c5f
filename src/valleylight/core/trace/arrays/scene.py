"""Everything a kernel reads, put together: geometry, surfaces, daylight, fixtures, air."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from valleylight.core.sky.frames import NO_WINDOW


class SceneArrays(NamedTuple):
    """Everything a kernel reads; shapes beside each field."""

    handle: int  # Embree scene of everything
    glass: int  # Embree scene of what lets light by, 0 for none
    glass_first: NDArray[np.int64]  # (N,) first triangle record of a geometry of `glass`
    glass_transform: NDArray[np.int64]  # (N,) row of `transforms` of a geometry of `glass`
    triangles: NDArray[np.float32]  # (T, 32) corner, edges, normals, uv, material, fixture + 1, sharp edges, object
    geometry_first: NDArray[np.int64]  # (N,) first triangle record of an Embree geometry
    geometry_transform: NDArray[np.int64]  # (N,) row of `transforms`, -1 where the geometry stands in the world
    geometry_object: NDArray[np.int64]  # (N,) object of an instance
    transforms: NDArray[np.float32]  # (K, 21) 3 x 4 matrix to the world, 3 x 3 matrix of normals
    objects: NDArray[np.float32]  # (O, 2) receives bounced light, shows only shadow
    materials: NDArray[np.float32]  # (M, 76)
    pixels: NDArray[np.uint8]  # all textures, flat
    texture_info: NDArray[np.int64]  # (X, 3) offset, width, height
    decode: NDArray[np.float32]  # (256,) sRGB code to linear
    linear: NDArray[np.float32]  # (256,) code / 255
    dome: NDArray[np.float32]  # (R, C, 3) cd/m2
    backdrop: NDArray[np.float32]  # (R', C', 3) cd/m2, the sky as it is seen sharply
    sky_fine: NDArray[np.float32]  # (H, W, 3) cd/m2, the part of it that the lens looks at, or one cell
    sky_window: NDArray[np.float64]  # (5,) where that lies, see sky.frames.Window
    haze: NDArray[np.float64]  # (1 + C, 3) extinction of clear air per m, horizon by azimuth in cd/m2
    cloud_shadow: NDArray[np.float32]  # (N, N) share of the sun under a periodic cloud field, or empty
    cloud_frame: NDArray[np.float64]  # (8,) see cloudshadow.through_cloud
    dome_density: NDArray[np.float32]  # (R, C) per sr
    dome_marginal: NDArray[np.float64]  # (R + 1,)
    dome_conditional: NDArray[np.float64]  # (R, C + 1)
    sun: NDArray[np.float64]  # (14,) direction, cos of radius, luminance RGB, density per sr, basis
    openings: NDArray[np.float64]  # (P, 20) see opening_array
    sun_ways: NDArray[np.float64]  # (S, 3, 4) see daylight.ways_of_sun
    sunlit: NDArray[np.float32]  # (M, 32) see sunlit.py
    sunlit_brief: NDArray[np.float32]  # (M, 8)
    lamps: NDArray[np.float32]  # (L, 24)
    lamp_of: NDArray[np.int64]  # (N,) row of `lamps` of each fixture that stands in the stage, -1 where it is off
    profiles: NDArray[np.float32]  # (F, 73, 361) cd
    lamp_points: NDArray[np.float32]  # (M, 6) points and normals of emitting meshes, see lamplight
    inclusion: NDArray[np.uint8]  # (S, O) which objects a fixture with a list of its own lights; row 0 unused
    beam_lamps: NDArray[np.int64]  # (B,) fixtures whose beam shows in clear air
    grid_box: NDArray[np.float64]  # (6,) low corner, inverse cell size
    grid_counts: NDArray[np.int64]  # (3,)
    grid_cdf: NDArray[np.float32]  # (cells, L + 1)
    emitters: NDArray[np.float32]  # (E, 16)
    emitter_triangle: NDArray[np.int64]  # (E,) their triangle records k, -2 - k for those that cast no shadow
    emitter_cdf: NDArray[np.float64]  # (1, E + 1)
    air: NDArray[np.float64]  # (22,)
    weather: NDArray[np.float64]  # (15,) see layout
    lying: NDArray[np.float32]  # (N, N, 4, 8) see bsdf/cover.py
    lying_far: NDArray[np.float32]  # (N, N, 4, 8)
    net: NDArray[np.float64]  # (11,) region, cell size, cells, radius of the photons
    photons: NDArray[np.float32]  # (P, 10)
    photon_cells: NDArray[np.int64]  # (cells + 1,) first photon of a cell


NO_WEATHER: dict[str, object] = {
    "weather": np.zeros(15), "lying": np.full((1, 1, 4, 8), -1e9, np.float32), "lying_far": np.full((1, 1, 4, 8), -1e9, np.float32)
}  # fmt: skip
NO_FINE_SKY: dict[str, object] = {"sky_fine": np.zeros((1, 1, 3), np.float32), "sky_window": NO_WINDOW}
NO_NET: dict[str, object] = {
    "net": np.zeros(11), "photons": np.zeros((0, 10), np.float32), "photon_cells": np.zeros(2, np.int64)
}  # fmt: skip
