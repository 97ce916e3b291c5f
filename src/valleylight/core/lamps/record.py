"""A fixture as the row of numbers that the tracer reads."""

#: Steps of a candela distribution over its two angles: half a degree and five degrees.
GAMMA_STEPS, C_STEPS = 360, 72
#: Luminous shapes.
POINT, DISC, RECTANGLE, SPHERE, MESH = 0, 1, 2, 3, 4
#: Columns of a fixture record.
(PLACE, AXIS_X, AXIS_Y, AXIS_Z, COLOUR, PROFILE, SHAPE, SIZE_U, SIZE_V, GROUP, FACE_AREA, MEAN, BEAM, INCLUSION,
 FACE_SIDE) = (0, 3, 6, 9, 12, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24)  # fmt: skip
LAMP_WIDTH = 25


def three(first: int) -> slice:
    """The three columns of a place, direction or colour."""
    return slice(first, first + 3)
