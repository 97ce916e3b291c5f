"""The columns of the flat records that kernels read."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

#: A triangle: corner (0-2), edges (3-8), corner normals (9-17), uv (18-23), material (24), fixture + 1 of a luminous face and
#: -(fixture + 1) of the rest of its body (25), which of
#: its edges are sharp outer ones (26, bits 1, 2, 4 opposite corners 0, 1, 2), number of its object (27), whether it casts an opaque
#: shadow (28, known in the world alone). The rest fills two cache lines.
TRIANGLE_WIDTH = 32
TRIANGLE_MATERIAL, TRIANGLE_FIXTURE, TRIANGLE_EDGES, TRIANGLE_OBJECT, TRIANGLE_SHADES = 24, 25, 26, 27, 28

#: A material; its base colour stands in columns 0 to 2. KIND is one of the kinds below; LAYERED above zero sends it
#: through the layered model. Colours take three columns.
(ROUGH, METAL, GLOSS, INDEX, KIND, TINT, EMISSION, BASE_TEXTURE, RELIEF_TEXTURE, RELIEF, THROUGH, LIT) = (
    3, 4, 5, 6, 7, 8, 11, 14, 15, 16, 17, 19
)  # fmt: skip
(LAYERED, DIFFUSE_ROUGH, EDGE, CLEAR, CLEAR_ROUGH, SHEEN, SHEEN_ROUGH, BACK, ABSORB, ROUGH_TEXTURE, ALPHA_TEXTURE,
 CUTOFF, TRIPLANAR, PATTERN, PATTERN_SIZE, PATTERN_TINT, BUMP, WEATHER, DETAIL) = (
    20, 21, 22, 25, 26, 27, 30, 31, 34, 37, 38, 39, 40, 41, 42, 43, 46, 47, 48
)  # fmt: skip
MATERIAL_WIDTH = 50

#: Kinds of surface: met and shaded; a pane passed straight on; solid glass or water; frosted pane (shaded, both sides).
SURFACE, PANE, SOLID, FROSTED = 0, 1, 2, 3

#: Settings of a trace. ZERO: where the zero of the model's coordinates lies for the tracer, three columns, the third of which is the
#: ground; LIFT: how far off its place a measuring point's rays start, in metres.
(MAX_BOUNCES, CLAMP, SEED, GROUP_SUN, GROUP_SKY, GROUP_SURFACES, SUN_ON, SKY_ON, EMITTED_TOTAL, SOFTEN, NET_ON, AIR_ON,
 BEAMS, SKY_LUX, FRAME_Y, FRAME_HEIGHT, GROUP_BACKDROP, DISC_ON, HAZE_ON, PROJECT_HEIGHT, PROJECT_RADIUS,
 DOME_SHARE, SELDOM, SPLITS, SUNLIT_DENSITY, LENS_IN, LIFT, ZERO) = (
    range(28)
)  # fmt: skip
GROUND = ZERO + 2
SETTINGS_WIDTH = ZERO + 3

#: The camera: position (0), forward (3), right (6), up (9), half width and height (12), shift x and y (14), lens radius
#: (16), focus distance (17), normal of the plane of focus (18), movement over the shutter (21), blades (24), their turn
#: in radians (25).
CAMERA_WIDTH = 26

#: The air: box (0-5), extinction (6), base height (7), 1 / fall height (8), albedo (9-11), forward and back asymmetry
#: (12, 13), share of the back part (14), unevenness (15), 1 / its size (16), drift (17-19), multiple scattering (20).
AIR_WIDTH = 21

#: So many paths are followed at a time, and each has at most so many branches.
WAVE, MOST_SPLITS = 128, 8
PATHS = WAVE * MOST_SPLITS

#: A path on its way: where its ray starts (0-2) and points (3-5), where it was last scattered (6-8) and what the openings weigh
#: there (9), the light it carries as a factor (10-12), density per sr with which it was last scattered, 0 after a mirror (13);
#: bounces (14), panes met (15), cut-outs passed (16), what its ray can meet (17), its number (18) and its pixel's seed (19),
#: branches of its path so far (20), the sample it belongs to (21), material of the solid glass it is in or -1 (22); whether it has
#: met a surface (23), whether that was rough (24), whether a sunlit place was asked where it was last scattered (25), whether it came
#: through or off solid glass since (26), was scattered by the air since (27), met nothing but mirrors and panes (28), whether the
#: clear air before it has been seen to (29), and the number of the step it takes (30).
(ORIGIN, TOWARDS, SCATTERED, OPEN, LIGHT, DENSITY, BOUNCE, PANES, SKIPPED, MASK, NUMBER, PIXEL, BRANCHES, SAMPLE, MEDIUM,
 SEEN, ROUGHENED, LINKED, BENT, DRIFTING, MIRRORED, HAZED, STEP) = (
    0, 3, 6, 9, 10, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30
)  # fmt: skip
PATH_WIDTH = 32

#: A sample of a pixel: row and column (0, 1), its light (2-4), what of it came by a reflection (5-7), whether what it adds does now
#: (8) and from the next step on (9).
SAMPLE_LIGHT, SAMPLE_REFLECTED, REFLECTS, WILL_REFLECT, SAMPLE_WIDTH = 2, 5, 8, 9, 10

#: A question, at most one for each kind of light: origin (0-2), direction (3-5), length (6), mask (7), how solid glass is taken
#: (8), seed of the walk through uneven air (9), light brought in cd/m2 (10-12; of the sky the share of it), group (13), density
#: with which it was drawn, for the weight against a bounce (14, 0 for none); once shaded, that of the bounce. Where it was asked:
#: the sample (15), greatest luminance (16), whether at the first surface (17), where (18-20) and what the openings weigh there
#: (21); and the emitting triangle that the ray must meet first (22, -1 where the way must only be free). Directions onwards stand behind the questions.
QUESTIONS, QUESTION_WIDTH = 5 * PATHS + 1 + MOST_SPLITS, 23

#: So many openings at most guide rays; the column of an opening that keeps its area in m2.
MOST_OPENINGS, OPENING_AREA = 256, 12

#: Objects: receives bounced light (0), shadow only (1).
OBJECT_WIDTH = 2


def in_lines(*records: NDArray[np.float32]) -> NDArray[np.float32]:
    """Records (N, 32) one after the other, each in its own pair of cache lines (128 bytes), which the processor fetches as one."""
    rows, width = sum(len(r) for r in records), records[0].shape[1]
    raw = np.empty(rows * width + 32, np.float32)
    first = (-raw.ctypes.data % 128) // 4
    return np.concatenate(records, out=raw[first : first + rows * width].reshape(rows, width))
