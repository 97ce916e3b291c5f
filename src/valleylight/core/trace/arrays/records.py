"""What kernels hand each other of a place at hand, under the names of its numbers; all are float64."""

from __future__ import annotations

from typing import NamedTuple


class Vertex(NamedTuple):
    """A surface interaction: the place, the facet's normal towards the viewer, the shading normal, the direction to the viewer, and how
    far off the facet rays start, in metres."""

    x: float
    y: float
    z: float
    gx: float
    gy: float
    gz: float
    nx: float
    ny: float
    nz: float
    wx: float
    wy: float
    wz: float
    lift: float


class Paint(NamedTuple):
    """Parameters of the BSDF at a vertex, after textures, patterns and weathering; or of the phase function of the air."""

    red: float  # of the base, or albedo of the air
    green: float
    blue: float
    alpha: float  # GGX width of the gloss
    metal: float
    gloss: float
    refraction: float  # refractive index of the gloss
    through: float  # share of the matt part that passes to the far side
    share: float  # of the gloss lobe among the samples
    under: float  # share that the gloss lets down to the base on the viewer's side, see albedo.seen_from
    lost: float  # share that the gloss keeps of what comes up, see albedo.seen_from
    layer: float  # number of the layered material; -1 simple, -2 frosted, -3 air
    clear: float  # share of the clear coat among the samples
    material: float  # its number
