"""The columns of the flat records that kernels read."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

#: A triangle: corner (0-2), edges (3-8), corner normals (9-17), uv (18-23), material (24), fixture + 1 of a luminous face and
#: -(fixture + 1) of the rest of its body (25), which of
#: its edges are sharp outer ones (26, bits 1, 2, 4 opposite corners 0, 1, 2), number of its object (27). The rest fills two cache lines.
TRIANGLE_WIDTH = 32
TRIANGLE_MATERIAL, TRIANGLE_FIXTURE, TRIANGLE_EDGES, TRIANGLE_OBJECT = 24, 25, 26, 27

#: A material; its base colour stands in columns 0 to 2. KIND is one of the kinds below; LAYERED above zero sends it
#: through the layered model. Colours take three columns.
(ROUGH, METAL, COAT, INDEX, KIND, TINT, EMISSION, BASE_TEXTURE, RELIEF_TEXTURE, RELIEF, THROUGH, F0, LIT) = (
    3, 4, 5, 6, 7, 8, 11, 14, 15, 16, 17, 18, 19
)  # fmt: skip
(LAYERED, DIFFUSE_ROUGH, EDGE, CLEAR, CLEAR_ROUGH, SHEEN, SHEEN_ROUGH, BACK, ABSORB, ROUGH_TEXTURE, ALPHA_TEXTURE,
 CUTOFF, TRIPLANAR, PATTERN, PATTERN_SIZE, PATTERN_TINT, BUMP, WEATHER, DETAIL) = (
    20, 21, 22, 25, 26, 27, 30, 31, 34, 37, 38, 39, 40, 41, 42, 43, 46, 47, 48
)  # fmt: skip
MATERIAL_WIDTH = 50

#: Kinds of surface: met and shaded; a pane passed straight on; solid glass or water; frosted pane (shaded, both sides).
SURFACE, PANE, SOLID, FROSTED = 0, 1, 2, 3

#: Settings of a trace.
(MAX_BOUNCES, CLAMP, SEED, GROUP_SUN, GROUP_SKY, GROUP_SURFACES, SUN_ON, SKY_ON, EMITTED_TOTAL, SOFTEN, NET_ON, AIR_ON,
 GROUND, BEAMS, SKY_LUX, FRAME_Y, FRAME_HEIGHT, GROUP_BACKDROP, DISC_ON, HAZE_ON, PROJECT_HEIGHT, PROJECT_RADIUS,
 DOME_SHARE, SELDOM, SPLITS, SUNLIT_DENSITY) = (
    range(26)
)  # fmt: skip
SETTINGS_WIDTH = 26

#: The camera: position (0), forward (3), right (6), up (9), half width and height (12), shift x and y (14), lens radius
#: (16), focus distance (17), normal of the plane of focus (18), movement over the shutter (21), blades (24), their turn
#: in radians (25).
CAMERA_WIDTH = 26

#: The passes of a film beside its light: sums over samples.
(PASS_COLOUR, PASS_NORMAL, PASS_DEPTH, PASS_HITS, PASS_POSITION, PASS_FREE, PASS_SHADED, PASS_REFLECTED, PASS_LUMINANCE,
 PASS_SQUARES) = (0, 3, 6, 7, 8, 11, 12, 13, 16, 17)  # fmt: skip
PASS_WIDTH = 18

#: The air: box (0-5), extinction (6), base height (7), 1 / fall height (8), albedo (9-11), forward and back asymmetry
#: (12, 13), share of the back part (14), unevenness (15), 1 / its size (16), drift (17-19), multiple scattering (20).
AIR_WIDTH = 21

#: Branches of a path that forks: in the first row how many there are and the bounce they start with; then of each its origin
#: (0-2), direction (3-5), density (6), what it carries (7-9), its number (10).
FORK_WIDTH, MOST_SPLITS = 11, 8

#: A question, at most one for each kind of light: origin (0-2), direction (3-5), length (6), mask (7), how solid glass is taken
#: (8), seed of the walk through uneven air (9), light brought in cd/m2 (10-12; of the sky the share of it), group (13), density
#: with which it was drawn, for the weight against a bounce (14, 0 for none); once shaded, that of the bounce. Directions
#: onwards stand behind the questions.
QUESTIONS, QUESTION_WIDTH = 5 + MOST_SPLITS, 15

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
