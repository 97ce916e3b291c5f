"""The columns of a film's passes, and the cells of what it spreads; the tracer writes them, the film reads them."""

#: The passes of a film beside its light: sums over samples.
(PASS_COLOUR, PASS_NORMAL, PASS_DEPTH, PASS_HITS, PASS_POSITION, PASS_FREE, PASS_SHADED, PASS_REFLECTED, PASS_LUMINANCE,
 PASS_SQUARES, PASS_BEYOND) = (0, 3, 6, 7, 8, 11, 12, 13, 16, 17, 18)  # fmt: skip
PASS_WIDTH = 19
#: Those that take three columns.
COLOUR, NORMAL, POSITION, REFLECTED = (
    slice(n, n + 3) for n in (PASS_COLOUR, PASS_NORMAL, PASS_POSITION, PASS_REFLECTED)
)

#: Light beyond the limit of a contribution is kept by cells so many pixels wide (tiles are whole numbers of them), up to so many
#: times the limit.
SPILL_CELL, SPILL_MOST = 8, 64.0
