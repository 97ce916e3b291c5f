"""The columns of the flat records that kernels read."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

# A name is the first column of what it names; places, directions and colours take three from there.

#: A triangle: a corner and the two edges from it, normals at its corners, three pairs of uv, material, fixture + 1 of a luminous face
#: and -(fixture + 1) of the rest of its body, which of its edges are sharp outer ones (bits 1, 2, 4 opposite corners 0, 1, 2), number
#: of its object, whether it casts an opaque shadow (known in the world alone). The rest fills two cache lines.
(TRIANGLE_CORNER, TRIANGLE_EDGE_1, TRIANGLE_EDGE_2, TRIANGLE_NORMALS, TRIANGLE_UV, TRIANGLE_MATERIAL, TRIANGLE_FIXTURE,
 TRIANGLE_EDGES, TRIANGLE_OBJECT, TRIANGLE_SHADES) = (0, 3, 6, 9, 18, 24, 25, 26, 27, 28)  # fmt: skip
TRIANGLE_WIDTH = 32

#: How an instance stands in the world: a matrix of 3 rows by 4 columns, and the matrix of normals, 3 by 3.
TRANSFORM_MATRIX, TRANSFORM_NORMALS, TRANSFORM_WIDTH = 0, 12, 21

#: A material; its base colour stands in columns 0 to 2. KIND is one of the kinds below; LAYERED above zero sends it
#: through the layered model. Colours take three columns.
(ROUGH, METAL, GLOSS, INDEX, KIND, TINT, EMISSION, BASE_TEXTURE, RELIEF_TEXTURE, RELIEF, THROUGH, EMISSION_TEXTURE, LIT) = (
    3, 4, 5, 6, 7, 8, 11, 14, 15, 16, 17, 18, 19
)  # fmt: skip
(LAYERED, DIFFUSE_ROUGH, EDGE, CLEAR, CLEAR_ROUGH, SHEEN, SHEEN_ROUGH, BACK, ABSORB, ROUGH_TEXTURE, ALPHA_TEXTURE,
 CUTOFF, LAID, PATTERN, PATTERN_SIZE, PATTERN_TINT, BUMP, WEATHER, DETAIL) = (
    20, 21, 22, 25, 26, 27, 30, 31, 34, 37, 38, 39, 40, 41, 42, 43, 46, 47, 48
)  # fmt: skip
#: How what is LAID lies (see textures.laying): cosine and minus sine of its turn, shift in metres, width and height of a tile, metres of one turn of its own uv, what
#: takes a place to the model's zero; and a layout of units (textures.courses): its bond, length, height, joint, depth and colour of the
#: joint, the other colour that units tend to, how much their lightness and their slope differ.
(LAY_COS, LAY_SIN, LAY_SHIFT, TILE, UV_M, ZERO_AT, BOND, UNIT_LENGTH, UNIT_HEIGHT, JOINT, RECESS, JOINT_COLOUR, UNIT_TINT, SHADE,
 UNEVEN) = (49, 50, 51, 53, 55, 56, 59, 60, 61, 62, 63, 64, 67, 70, 71)  # fmt: skip
#: SCARCE above zero: met by a share of the rays alone, which stands in the second of its uv. UNCOVERED: no weather lies on it.
#: LEAVES: the share of its cards that is there. SWARD above zero: a surface that stands for blades, on which water makes no film.
SCARCE, UNCOVERED, LEAVES, SWARD, MATERIAL_WIDTH = 72, 73, 74, 75, 76

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

#: The camera: where it stands and its axes; half its film and its shift, over the focal length; radius of the lens in metres, distance
#: in focus and normal of the plane of focus; movement over the shutter; blades of the diaphragm and their turn in radians.
(CAMERA_PLACE, CAMERA_FORWARD, CAMERA_RIGHT, CAMERA_UP, CAMERA_HALF_WIDTH, CAMERA_HALF_HEIGHT, CAMERA_SHIFT_X, CAMERA_SHIFT_Y,
 CAMERA_LENS_RADIUS, CAMERA_FOCUS, CAMERA_FOCUS_NORMAL, CAMERA_MOVES, CAMERA_BLADES, CAMERA_BLADES_TURN) = (
    0, 3, 6, 9, 12, 13, 14, 15, 16, 17, 18, 21, 24, 25
)  # fmt: skip
CAMERA_WIDTH = 26

#: The sun: direction towards it, cosine of its radius, luminance, density per sr of a direction within it, two axes across it.
SUN_TOWARDS, SUN_COS_RADIUS, SUN_LUMINANCE, SUN_DENSITY, SUN_ACROSS_1, SUN_ACROSS_2 = 0, 3, 4, 7, 8, 11

#: An opening: its middle, half edges, direction into the room, area in m2, corners of its room, a tenth of its side, which tells it from
#: nothing seen edge on. So many at most guide rays.
(OPENING_CENTRE, OPENING_HALF_U, OPENING_HALF_V, OPENING_INWARD, OPENING_AREA, OPENING_ROOM, OPENING_SMALL) = (
    0, 3, 6, 9, 12, 13, 19
)  # fmt: skip
OPENING_WIDTH, MOST_OPENINGS = 20, 256

#: A box: its low and its high corner.
LOW, HIGH = 0, 3

#: An emitting triangle: a corner and two edges, its radiance as luminance, its unit normal, its area.
EMITTER_CORNER, EMITTER_EDGE_1, EMITTER_EDGE_2, EMITTER_LIGHT, EMITTER_NORMAL, EMITTER_AREA = 0, 3, 6, 9, 12, 15
EMITTER_WIDTH = 16

#: A point of a fixture whose shape is a mesh, and its normal; the grid by which fixtures are chosen: its low corner and cells per metre.
LAMP_POINT, LAMP_NORMAL = 0, 3
GRID_LOW, GRID_PER_M = 0, 3

#: The region of a light net: its box, size and number of its cells, radius of a photon. A photon kept in it: where it landed, the
#: direction it came along, its power, its light group.
NET_BOX, NET_CELL_M, NET_CELLS, NET_RADIUS, NET_WIDTH = 0, 6, 7, 10, 11
LANDED_PLACE, LANDED_ALONG, LANDED_POWER, LANDED_GROUP, LANDED_WIDTH = 0, 3, 6, 9, 10

#: A sunlit place: its vertex, seen from the sun, and its paint (see records); what the sun gives over the chance that it was found
#: in lx, density per m2 for the weight, what it may send out. Two cache lines. In brief: point, normal of the face, the last two.
PLACE_VERTEX, PLACE_PAINT, PLACE_SUN, PLACE_DENSITY, PLACE_WORTH, PLACE_WIDTH = 0, 13, 27, 30, 31, 32
BRIEF_POINT, BRIEF_NORMAL, BRIEF_WORTH, BRIEF_THROUGH, BRIEF_WIDTH = 0, 3, 6, 7, 8

#: The air: its box, extinction per m, base height, 1 / fall height, albedo, forward and back asymmetry and share of the back part,
#: unevenness, 1 / its size, its drift, multiple scattering,
#: whether it shows the beams of sun and lamps alone and takes nothing from what lies behind.
(AIR_BOX, AIR_EXTINCTION, AIR_BASE, AIR_FALL, AIR_ALBEDO, AIR_FORWARD, AIR_BACK, AIR_BACK_SHARE, AIR_UNEVEN, AIR_FINENESS,
 AIR_DRIFT, AIR_MULTIPLE, AIR_BEAMS_ONLY) = (0, 6, 7, 8, 9, 12, 13, 14, 15, 16, 17, 20, 21)  # fmt: skip
AIR_WIDTH = 22

#: Weather: whether any lies, depth in m and colour of snow, below which value of the patches' noise ground is bare (-1: none) and their
#: size in m, wetness of what is open, how far puddles are stirred; the near and the far grid: place of the first node, nodes a metre.
(WEATHER_ON, WEATHER_SNOW, WEATHER_COLOUR, WEATHER_BARE, WEATHER_PATCH, WEATHER_WET, WEATHER_STIR, WEATHER_NEAR, WEATHER_FAR) = (
    0, 1, 2, 5, 6, 7, 8, 9, 12
)  # fmt: skip
WEATHER_WIDTH = 15

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

#: A question, at most one for each kind of light: its ray (origin, direction, length, mask), how solid glass is taken, seed of the walk
#: through uneven air, light brought in cd/m2 (of the sky the share of it), group, density with which it was drawn, for the weight
#: against a bounce (0 for none; once shaded, that of the bounce). Where it was asked: the sample, greatest luminance, whether at the
#: first surface, where, and what the openings weigh there; and the emitting triangle that the ray must meet first (-1 where the way
#: must only be free). Directions onwards stand behind the questions.
(ASK_ORIGIN, ASK_TOWARDS, ASK_LENGTH, ASK_MASK, ASK_SOLIDS, ASK_WALK, ASK_LIGHT, ASK_GROUP, ASK_DENSITY, ASK_SAMPLE, ASK_MOST,
 ASK_FIRST, ASK_PLACE, ASK_OPEN, ASK_TRIANGLE) = (0, 3, 6, 7, 8, 9, 10, 13, 14, 15, 16, 17, 18, 21, 22)  # fmt: skip
QUESTIONS, QUESTION_WIDTH = 5 * PATHS + 1 + MOST_SPLITS, 23

#: Objects: whether they take bounced light, and whether they show nothing but the shadow on them.
OBJECT_RECEIVES, OBJECT_SHADOW_ONLY = 0, 1


def three(first: int) -> slice:
    """The three columns of a place, direction or colour."""
    return slice(first, first + 3)


def in_lines(*records: NDArray[np.float32]) -> NDArray[np.float32]:
    """Records (N, 32) one after the other, each in its own pair of cache lines (128 bytes), which the processor fetches as one."""
    rows, width = sum(len(r) for r in records), records[0].shape[1]
    raw = np.empty(rows * width + 32, np.float32)
    first = (-raw.ctypes.data % 128) // 4
    return np.concatenate(records, out=raw[first : first + rows * width].reshape(rows, width))
