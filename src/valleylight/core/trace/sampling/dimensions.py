"""Which random number a path draws for what: the register that keeps any of them from being drawn twice.

A path takes steps. Every ray that it sends on begins one, whatever it met before: a surface, a pane, solid glass, a cut-out or a drop
of the air. A number is addressed by the path's own number, the seed of its pixel, the step, and one of the uses below; two places
that need numbers are two uses. Numbers that are shared, by two segments of air on both sides of a pane, or by a roulette and the
surface it leads to, are no longer independent, and the mean of the picture goes astray.
"""

from __future__ import annotations

import numpy as np

from valleylight.core.jit.compiled import kernel
from valleylight.core.trace.sampling.sobol import bits, scatter_square, square

#: Of a sample, before its first step: place in the pixel, place in the lens, moment of the shutter.
FILM, APERTURE, MOMENT = (np.int64(k) for k in range(3))  # typed: kernels are compiled once
OF_SAMPLE = 3

(
    # Of a surface: towards the sun, the sky, a fixture, an emitting surface and sunlit places, and which of them have their turn.
    SUN, SKY, FIXTURE, SURFACE, PLACES, TURN_OF_SUN, TURN_OF_PLACES,
    # Its lobe and the roulette, the direction, the roulette of further branches.
    CHOICE, DIRECTION, BRANCH_FATE,
    # A pane or solid glass: reflected or passed, and the facet met. A surface that shows only the shadow on it.
    PANE, FACET, CATCH,
    # The air: whether to ask, how far light flies and what is left of it, then place and turn, sun, sky, surface, and for
    # fixtures place and choice, other place, point. A drop: direction and roulette. Beams of fixtures.
    AIR_ASK, AIR_FLIGHT, AIR_LEFT, AIR_PLACE, AIR_SUN, AIR_SKY, AIR_SURFACE, AIR_FIXTURE, AIR_CHOICE, AIR_POINT,
    DROP, DROP_FATE, BEAM,
) = (np.int64(k) for k in range(26))  # fmt: skip
OF_STEP = 26

#: Of a photon: caster and first place, place across, sun's disc, point on a fixture, direction; then for each event a facet,
#: reflected or passed, and what the air leaves.
PHOTON_CASTER, PHOTON_PLACE, PHOTON_DISC, PHOTON_POINT, PHOTON_DIRECTION = (np.int64(k) for k in range(5))
OF_PHOTON = 5
EVENT_FACET, EVENT_FATE, EVENT_AIR = (np.int64(k) for k in range(3))
OF_EVENT = 3

#: Numbers are stratified for the first bounces and plain for the deep ones.
STRATIFIED_BOUNCES = 3


@kernel
def of_sample(index, pixel, use):
    """Point (u, v) for a use of a whole sample: FILM, APERTURE or MOMENT."""
    return square(index, pixel, use)


@kernel
def of_step(index, pixel, step, bounce, use):
    """Point (u, v) for one use at one step of a path; `bounce` says how deep it is, for how well the points are spread."""
    dimension = OF_SAMPLE + OF_STEP * step + use
    if bounce < STRATIFIED_BOUNCES:
        return square(index, pixel, dimension)
    return scatter_square(index, pixel, dimension)


@kernel
def seed_of_step(index, pixel, step, use):
    """32 random bits for one use at one step of a path, to begin a chain of numbers with."""
    return bits(index, pixel, OF_SAMPLE + OF_STEP * step + use)


@kernel
def of_photon(index, seed, use):
    """Point (u, v) for a use of a whole photon."""
    return scatter_square(index, seed, use)


@kernel
def of_event(index, seed, event, use):
    """Point (u, v) for one use at one event of a photon."""
    return scatter_square(index, seed, OF_PHOTON + OF_EVENT * event + use)


@kernel
def seed_of_event(index, seed, event, use):
    """32 random bits for one use at one event of a photon."""
    return bits(index, seed, OF_PHOTON + OF_EVENT * event + use)
