"""Why things are darker when wet.

A film of water over a matt surface sends light back down by total reflection: of what the surface scatters up 1 / n^2
gets out, so r_wet = r / (n^2 (1 - r) + r) (A. Angstrom, Geografiska Annaler 7, 1925; discussed by J. Lekner, M. Dorf,
Applied Optics 27, 1988). How much water a surface drinks is taken from its roughness (common practice).
"""

from __future__ import annotations

from valleylight.core.jit.compiled import part

#: Refractive index of water.
WATER = 1.333


@part
def under_water(r):
    """Reflectance of a matt surface under a film of water, from what it is when dry."""
    return r / (WATER * WATER * (1.0 - r) + r)


@part
def drinks(roughness):
    """Share of a film that soaks in: none for what is polished, all for what is rough."""
    return min(max((roughness - 0.25) / 0.45, 0.0), 1.0)
