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


class Light(NamedTuple):
    """Light in linear RGB: a radiance, or what share of it a path passes on."""

    red: float
    green: float
    blue: float


class Segment(NamedTuple):
    """A straight piece of a path: from where, along which unit direction, how far in metres, and the light that its path carries."""

    x: float
    y: float
    z: float
    dx: float
    dy: float
    dz: float
    length: float
    red: float
    green: float
    blue: float


class Address(NamedTuple):
    """Where random numbers of a path are drawn, see `sampling.dimensions`: its number, pixel, step and bounce."""

    number: int
    pixel: int
    step: int
    bounce: int


class Unit(NamedTuple):
    """The brick, board or tile of a layout at a point: its address, the place from its middle along and across it and the distance to its
    edge (below zero in the joint) in metres, and whether it stands upright."""

    column: int
    row: int
    along: float
    across: float
    inside: float
    standing: float


class ShadowRay(NamedTuple):
    """A ray towards light: its unit direction, how far in metres it must be free, the mask of what blocks it, what solids do, and a seed
    for its walk through uneven air."""

    dx: float
    dy: float
    dz: float
    length: float
    mask: int
    solids: int
    walk: int
