"""Sampling of sky and openings.

The dome is sampled by its luminance (marginal and conditional distribution, M. Pharr et al., Physically Based
Rendering, section 13.3). Inside a room most of the dome cannot be seen, so points on the inner side of an opening also sample its
rectangle; the two strategies are one mixture density, so that either may find any direction.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.fast import arccos, sincos_turns, turns_of
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.sampling.sobol import search, search_row

F64 = np.float64
PI = math.pi
#: Share of samples that go to the whole dome where openings are in reach, and where no daylight comes but by them.
DOME_SHARE, DOME_SHARE_SHUT = 0.25, 0.06
#: A line is taken to leave by an opening that would be met at so many times its size: its frame, the sun's disc.
BESIDE = 1.15
#: A point nearer to the plane of an opening than this lies beside it, not behind it.
BESIDE_M = 0.005
#: The sun is taken to have come in so far behind an opening.
ENTERED_M = 0.02


@kernel
def dome_cell(rows, columns, dx, dy, dz):
    """Fractional row and column of a direction; X east, Y north, azimuth clockwise from north."""
    return (1.0 - arccos(min(max(dz, -1.0), 1.0)) / PI) * rows, turns_of(dx, dy) * columns


@part
def _bilinear(dome, y, x, above):
    """Value of a dome picture at fractional row and column; rows above and below the horizon are not mixed."""
    rows, columns = dome.shape[0], dome.shape[1]
    half = rows // 2
    y -= 0.5
    x -= 0.5
    if above:
        y = min(max(y, half), rows - 1.0)
    else:
        y = min(max(y, 0.0), half - 1.0)
    if x < 0.0:
        x += columns
    y0, x0 = int(y), int(x)
    t, s = y - y0, x - x0
    y1 = min(y0 + 1, rows - 1)
    x0 = x0 if x0 < columns else 0
    x1 = x0 + 1 if x0 + 1 < columns else 0
    a, b, c, d = (1 - t) * (1 - s), (1 - t) * s, t * (1 - s), t * s
    return (
        a * dome[y0, x0, 0] + b * dome[y0, x1, 0] + c * dome[y1, x0, 0] + d * dome[y1, x1, 0],
        a * dome[y0, x0, 1] + b * dome[y0, x1, 1] + c * dome[y1, x0, 1] + d * dome[y1, x1, 1],
        a * dome[y0, x0, 2] + b * dome[y0, x1, 2] + c * dome[y1, x0, 2] + d * dome[y1, x1, 2],
    )


@kernel
def seen_in(dome, dx, dy, dz):
    """Linear RGB in cd/m2 of a picture of the sky in a direction, bilinear."""
    y, x = dome_cell(dome.shape[0], dome.shape[1], dx, dy, dz)
    return _bilinear(dome, y, x, dz >= 0.0)


@kernel
def dome_light(dome, density, dx, dy, dz):
    """Linear RGB in cd/m2 of the dome in a direction, and the density per steradian of sampling it by luminance there."""
    rows, columns = dome.shape[0], dome.shape[1]
    y, x = dome_cell(rows, columns, dx, dy, dz)
    r, g, b = _bilinear(dome, y, x, dz >= 0.0)
    return r, g, b, F64(density[min(int(y), rows - 1), min(int(x), columns - 1)])


@part
def _in_window(window, dx, dy, dz):
    """Whether the part of the sky that is seen most finely holds a direction, and its fractional row and column there."""
    rows, columns = window[3], window[4]
    if rows < 2.0:
        return False, 0.0, 0.0
    y = (0.5 * PI - arccos(min(max(dz, -1.0), 1.0)) - window[1]) * window[2] - 0.5
    turns = turns_of(dx, dy) - window[0]
    x = (turns - math.floor(turns)) * 2.0 * PI * window[2] - 0.5
    return y >= 0.0 and y < rows - 1.0 and x >= 0.0 and x < columns - 1.0, y, x


@kernel
def backdrop_seen(picture, fine, window, settings, px, py, pz, dx, dy, dz):
    """Linear RGB in cd/m2 of the finer picture of the sky seen sharply from p in a direction: of the part that the lens looks at
    (`fine`, as `sky.frames.Window.record` lays it), else of the whole.

    A picture whose lower half lies on the ground is looked up where the ray meets the ground: as seen from the lens
    that took it, which stood PROJECT_HEIGHT above the origin of the model.
    """
    if settings[layout.PROJECT_RADIUS] > 0.0 and dz < -1e-4:
        ground = settings[layout.GROUND]
        t = (pz - ground) / -dz
        hx, hy = px + t * dx - settings[layout.ZERO], py + t * dy - settings[layout.ZERO + 1]
        if t > 0.0 and hx * hx + hy * hy < settings[layout.PROJECT_RADIUS] ** 2:
            h = settings[layout.PROJECT_HEIGHT]
            scale = 1.0 / math.sqrt(hx * hx + hy * hy + h * h)
            dx, dy, dz = hx * scale, hy * scale, -h * scale
    held, y, x = _in_window(window, dx, dy, dz)
    if held:
        y0, x0 = int(y), int(x)
        t, s = y - y0, x - x0
        a, b, c, d = (1 - t) * (1 - s), (1 - t) * s, t * (1 - s), t * s
        near, far = fine[y0], fine[y0 + 1]
        return (
            F64(a * near[x0, 0] + b * near[x0 + 1, 0] + c * far[x0, 0] + d * far[x0 + 1, 0]),
            F64(a * near[x0, 1] + b * near[x0 + 1, 1] + c * far[x0, 1] + d * far[x0 + 1, 1]),
            F64(a * near[x0, 2] + b * near[x0 + 1, 2] + c * far[x0, 2] + d * far[x0 + 1, 2]),
        )
    return seen_in(picture, dx, dy, dz)


@kernel
def haze_at(haze, dx, dy, way):
    """Share of light that clear air lets through over `way` metres, and the light that it adds in a level direction, both RGB.

    Far things fade into the horizon behind them: L = L0 e^(-b d) + L_horizon (1 - e^(-b d)) (H. Koschmieder, Theorie der
    horizontalen Sichtweite, 1924). `haze` (1 + C, 3): extinction per m, then the horizon by azimuth.
    """
    columns = haze.shape[0] - 1
    c = 1 + min(int(turns_of(dx, dy) * columns), columns - 1)
    a, b, e = math.exp(-haze[0, 0] * way), math.exp(-haze[0, 1] * way), math.exp(-haze[0, 2] * way)
    return a, b, e, haze[c, 0] * (1.0 - a), haze[c, 1] * (1.0 - b), haze[c, 2] * (1.0 - e)


@kernel
def _sample_dome(marginal, conditional, u, v):
    rows, columns = conditional.shape[0], conditional.shape[1] - 1
    row = search(marginal, 0, rows, u)
    gap = marginal[row + 1] - marginal[row]
    t = (u - marginal[row]) / gap if gap > 0 else 0.5
    column = search_row(conditional, row, columns, v)
    gap = conditional[row, column + 1] - conditional[row, column]
    s = (v - conditional[row, column]) / gap if gap > 0 else 0.5
    low, _ = sincos_turns(0.5 * row / rows - 0.25)
    high, _ = sincos_turns(0.5 * (row + 1) / rows - 0.25)
    dz = low + t * (high - low)
    flat = math.sqrt(max(1.0 - dz * dz, 0.0))
    sine, cosine = sincos_turns((column + s) / columns)
    return flat * sine, flat * cosine, dz


@kernel
def _opening_weight(openings, k, px, py, pz):
    """About the solid angle of opening k from p; zero on its outer side and outside its room."""
    if (
        px < openings[k, layout.OPENING_ROOM]
        or py < openings[k, layout.OPENING_ROOM + 1]
        or pz < openings[k, layout.OPENING_ROOM + 2]
    ):
        return 0.0
    if (
        px > openings[k, layout.OPENING_ROOM + 3]
        or py > openings[k, layout.OPENING_ROOM + 4]
        or pz > openings[k, layout.OPENING_ROOM + 5]
    ):
        return 0.0
    qx, qy, qz = (
        px - openings[k, layout.OPENING_CENTRE],
        py - openings[k, layout.OPENING_CENTRE + 1],
        pz - openings[k, layout.OPENING_CENTRE + 2],
    )
    height = (
        qx * openings[k, layout.OPENING_INWARD]
        + qy * openings[k, layout.OPENING_INWARD + 1]
        + qz * openings[k, layout.OPENING_INWARD + 2]
    )
    if height <= BESIDE_M:
        return 0.0
    d2 = qx * qx + qy * qy + qz * qz
    area = openings[k, layout.OPENING_AREA]
    d2 += 0.25 * area
    return area * (height + openings[k, layout.OPENING_SMALL]) / (d2 * math.sqrt(d2))


@kernel
def openings_total(openings, weights, px, py, pz):
    """Sum of the openings' weights at p, which are kept in `weights`: 0 outdoors."""
    total = 0.0
    for k in range(openings.shape[0]):
        weights[k] = _opening_weight(openings, k, px, py, pz)
        total += weights[k]
    return total


@part
def way_to_opening(openings, k, px, py, pz, dx, dy, dz, facing, size):
    """Metres from p along d to opening k taken `size` times as large, -1 where the line passes it by; `facing` is the cosine to its
    inner side."""
    qx, qy, qz = (
        openings[k, layout.OPENING_CENTRE] - px,
        openings[k, layout.OPENING_CENTRE + 1] - py,
        openings[k, layout.OPENING_CENTRE + 2] - pz,
    )
    t = (
        -(
            qx * openings[k, layout.OPENING_INWARD]
            + qy * openings[k, layout.OPENING_INWARD + 1]
            + qz * openings[k, layout.OPENING_INWARD + 2]
        )
        / facing
    )
    if t <= 0.0:
        return -1.0
    hx, hy, hz = t * dx - qx, t * dy - qy, t * dz - qz
    ux, uy, uz = (
        openings[k, layout.OPENING_HALF_U],
        openings[k, layout.OPENING_HALF_U + 1],
        openings[k, layout.OPENING_HALF_U + 2],
    )
    if abs(hx * ux + hy * uy + hz * uz) > size * (ux * ux + uy * uy + uz * uz):
        return -1.0
    vx, vy, vz = (
        openings[k, layout.OPENING_HALF_V],
        openings[k, layout.OPENING_HALF_V + 1],
        openings[k, layout.OPENING_HALF_V + 2],
    )
    if abs(hx * vx + hy * vy + hz * vz) > size * (vx * vx + vy * vy + vz * vz):
        return -1.0
    return t


@kernel
def through_opening(openings, px, py, pz, dx, dy, dz):
    """Whether the line from p along d leaves by an opening or close beside one."""
    for k in range(openings.shape[0]):
        facing = -(
            dx * openings[k, layout.OPENING_INWARD]
            + dy * openings[k, layout.OPENING_INWARD + 1]
            + dz * openings[k, layout.OPENING_INWARD + 2]
        )
        if facing > 1e-5 and way_to_opening(openings, k, px, py, pz, dx, dy, dz, facing, BESIDE) > 0.0:
            return True
    return False


def ways_of_sun(openings: NDArray[np.float64], sun: NDArray[np.float64]) -> NDArray[np.float64]:
    """For `in_way_of_sun`: three planes (S, 3, 4) for each of the openings (P, 20) through which light from the direction `sun` (3,)
    comes in. A point p lies in its way where |a p + a0| and |b p + b0| are below 1 and n p + n0 above 0."""
    ways = []
    for row in openings:
        centre, n = (
            row[layout.three(layout.OPENING_CENTRE)],
            row[layout.three(layout.OPENING_INWARD)],
        )
        facing = -float(sun @ n)
        if facing <= 1e-5:
            continue
        planes = [
            (e + (sun @ e) / facing * n) / (BESIDE * (e @ e))
            for e in (
                row[layout.three(layout.OPENING_HALF_U)],
                row[layout.three(layout.OPENING_HALF_V)],
            )
        ] + [n]
        ways.append([[*plane, -plane @ centre] for plane in planes])
    return np.array(ways, float).reshape(-1, 3, 4)


@kernel
def in_way_of_sun(ways, px, py, pz):
    """Whether the line from p to the sun leaves by an opening or close beside one."""
    for k in range(ways.shape[0]):
        if ways[k, 2, 0] * px + ways[k, 2, 1] * py + ways[k, 2, 2] * pz + ways[k, 2, 3] <= 0.0:
            continue
        if abs(ways[k, 0, 0] * px + ways[k, 0, 1] * py + ways[k, 0, 2] * pz + ways[k, 0, 3]) > 1.0:
            continue
        if abs(ways[k, 1, 0] * px + ways[k, 1, 1] * py + ways[k, 1, 2] * pz + ways[k, 1, 3]) <= 1.0:
            return True
    return False


@kernel
def openings_along(openings, px, py, pz, dx, dy, dz):
    """How many openings the line from p along d leaves by, where p lies at least ENTERED_M behind them."""
    count = 0
    for k in range(openings.shape[0]):
        facing = -(
            dx * openings[k, layout.OPENING_INWARD]
            + dy * openings[k, layout.OPENING_INWARD + 1]
            + dz * openings[k, layout.OPENING_INWARD + 2]
        )
        if facing > 1e-5 and way_to_opening(openings, k, px, py, pz, dx, dy, dz, facing, 1.0) * facing > ENTERED_M:
            count += 1
    return count


@kernel
def sky_density(dome, share, total, openings, px, py, pz, dx, dy, dz):
    """Density per steradian with which `sample_sky` finds a direction from p, where the dome's own density is `dome`
    and the openings weigh `total`."""
    if total <= 1e-4:
        return dome
    through = 0.0
    for k in range(openings.shape[0]):
        facing = -(
            dx * openings[k, layout.OPENING_INWARD]
            + dy * openings[k, layout.OPENING_INWARD + 1]
            + dz * openings[k, layout.OPENING_INWARD + 2]
        )
        if facing <= 1e-5:
            continue
        t = way_to_opening(openings, k, px, py, pz, dx, dy, dz, facing, 1.0)
        if t > 0.0:
            through += (
                _opening_weight(openings, k, px, py, pz) / total * t * t / (facing * openings[k, layout.OPENING_AREA])
            )
    return share * dome + (1.0 - share) * through


@kernel
def sample_sky(marginal, conditional, share, total, openings, weights, px, py, pz, u, v):
    """A direction towards the sky from p, where the openings weigh `total` (see `openings_total`); `share` of them go to the
    whole dome."""
    if total <= 1e-4:
        return _sample_dome(marginal, conditional, u, v)
    if u < share:
        return _sample_dome(marginal, conditional, u / share, v)
    u = (u - share) / (1.0 - share)
    left = u * total
    chosen, weight = openings.shape[0] - 1, 1.0
    for k in range(openings.shape[0]):
        weight = weights[k]
        if left < weight:
            chosen = k
            break
        left -= weight
    s = 2.0 * min(left / weight if weight > 0 else 0.5, 1.0) - 1.0
    t = 2.0 * v - 1.0
    k = chosen
    x = (
        openings[k, layout.OPENING_CENTRE]
        + s * openings[k, layout.OPENING_HALF_U]
        + t * openings[k, layout.OPENING_HALF_V]
        - px
    )
    y = (
        openings[k, layout.OPENING_CENTRE + 1]
        + s * openings[k, layout.OPENING_HALF_U + 1]
        + t * openings[k, layout.OPENING_HALF_V + 1]
        - py
    )
    z = (
        openings[k, layout.OPENING_CENTRE + 2]
        + s * openings[k, layout.OPENING_HALF_U + 2]
        + t * openings[k, layout.OPENING_HALF_V + 2]
        - pz
    )
    scale = 1.0 / math.sqrt(x * x + y * y + z * z + 1e-20)
    return x * scale, y * scale, z * scale


@kernel
def sample_cone(sun, u, v):
    """A direction uniform over the sun's disc."""
    z = 1.0 - u * (1.0 - sun[layout.SUN_COS_RADIUS])
    r = math.sqrt(max(1.0 - z * z, 0.0))
    sine, cosine = sincos_turns(v)
    a, b = r * cosine, r * sine
    return (
        z * sun[layout.SUN_TOWARDS] + a * sun[layout.SUN_ACROSS_1] + b * sun[layout.SUN_ACROSS_2],
        z * sun[layout.SUN_TOWARDS + 1] + a * sun[layout.SUN_ACROSS_1 + 1] + b * sun[layout.SUN_ACROSS_2 + 1],
        z * sun[layout.SUN_TOWARDS + 2] + a * sun[layout.SUN_ACROSS_1 + 2] + b * sun[layout.SUN_ACROSS_2 + 2],
    )
