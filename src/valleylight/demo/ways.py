"""Ways into and about the mill: stair, terrace and wheel."""

from __future__ import annotations

import numpy as np

from valleylight.core.making.glb import Model, Thing, place
from valleylight.core.making.shapes import beam, box, lathe, polygon, tube

LENGTH, WIDTH, WALL = 16.0, 7.0, 0.6


def stair(model: Model) -> None:
    """A straight oak stair along the east wall, up to a small landing under the lunette."""
    stair = Thing("stair")
    count, rise, going = 14, 0.175, 0.26
    x0, x1, y0 = 14.75, 15.9, 1.0
    for k in range(count):
        y, z = y0 + k * going, (k + 1) * rise
        stair.add("oak", box([x0, y - 0.02, z - 0.04], [x1, y + going, z], 0.005).shifted_uv(0.3 * k, 0.4 * k))
        stair.add(
            "limewash",
            polygon([(x0 + 0.02, y, z - rise), (x1, y, z - rise), (x1, y, z - 0.04), (x0 + 0.02, y, z - 0.04)]),
        )
        stair.add(
            "limewash",
            polygon(
                [
                    (x0 + 0.02, y + going, 0),
                    (x0 + 0.02, y, 0),
                    (x0 + 0.02, y, z - 0.04),
                    (x0 + 0.02, y + going, z - 0.04),
                ]
            ),
        )
    end, top = y0 + count * going, count * rise
    stair.add("oak", box([x0 - 0.9, end, top - 0.05], [LENGTH, WIDTH, top], 0.004))
    stair.add(
        "limewash",
        polygon([(x0 - 0.9, WIDTH, 0), (x0 - 0.9, end, 0), (x0 - 0.9, end, top - 0.05), (x0 - 0.9, WIDTH, top - 0.05)]),
    )
    stair.add(
        "limewash",
        polygon([(x0 - 0.9, end, 0), (LENGTH, end, 0), (LENGTH, end, top - 0.05), (x0 - 0.9, end, top - 0.05)]),
    )
    rails = Thing("stair rail")
    for k in range(count):
        y, z = y0 + (k + 0.5) * going, (k + 1) * rise
        rails.add("blackened steel", tube([(x0 + 0.04, y, z), (x0 + 0.04, y, z + 0.92)], 0.007, 6))
    a, b = (x0 + 0.04, y0 - 0.05, 0.92 + rise * 0.5), (x0 + 0.04, end, top + 0.92)
    rails.add("oak", beam(a, b, 0.05, 0.06, 0.008))
    rails.add("blackened steel", tube([(x0 + 0.04, y0, 0), (x0 + 0.04, y0, 1.05)], 0.02, 8))
    for y in np.arange(end + 0.12, WIDTH, 0.13):
        rails.add("blackened steel", tube([(x0 - 0.86, y, top), (x0 - 0.86, y, top + 0.92)], 0.007, 6))
    rails.add("oak", beam((x0 - 0.86, end, top + 0.92), (x0 - 0.86, WIDTH, top + 0.92), 0.05, 0.06, 0.008))
    for x in np.arange(x0 - 0.74, x0 + 0.05, 0.13):
        rails.add("blackened steel", tube([(x, end + 0.03, top), (x, end + 0.03, top + 0.92)], 0.007, 6))
    rails.add("oak", beam((x0 - 0.86, end + 0.03, top + 0.92), (x0 + 0.04, end + 0.03, top + 0.92), 0.05, 0.06, 0.008))
    model.put(stair)
    model.put(rails)


def terrace(model: Model, rng: np.random.Generator) -> None:
    slabs = Thing("terrace slabs")
    y = -WALL - 0.02
    while y > -5.0:
        depth = rng.uniform(0.5, 0.75)
        x = -0.4 - rng.uniform(0, 0.6)
        while x < 17.8:
            w = rng.uniform(0.6, 1.25)
            top = -0.02 + rng.uniform(-0.004, 0.004)
            slabs.add("flagstone" if rng.random() < 0.6 else "flagstone, pale",
                      box([x + 0.005, y - depth + 0.005, -0.25], [x + w - 0.005, y - 0.005, top], 0.007)
                      .shifted_uv(*rng.uniform(0, 4, 2)))  # fmt: skip
            x += w
        y -= depth
    slabs.add(
        "gravel", polygon([(-1.2, -5.6, -0.035), (18.5, -5.6, -0.035), (18.5, -0.6, -0.035), (-1.2, -0.6, -0.035)])
    )
    model.put(slabs)
    edge = Thing("terrace edge")
    x = -1.1
    while x < 18.4:
        w = rng.uniform(0.5, 1.0)
        edge.add("dressed stone", box([x + 0.004, y - 0.36, -1.6], [x + w - 0.004, y + 0.02, 0.0 + rng.uniform(-0.01, 0.01)], 0.012)
                 .shifted_uv(*rng.uniform(0, 4, 2)))  # fmt: skip
        x += w
    for low_x, high_x in ((-1.46, -1.1), (18.0, 18.42)):  # the ends, down to the bank
        end = y - 0.36
        while end < -WALL - 0.1:
            w = min(rng.uniform(0.5, 1.0), -WALL - end)
            edge.add("dressed stone", box([low_x, end + 0.004, -1.6], [high_x, end + w - 0.004, rng.uniform(-0.01, 0.01)], 0.012)
                     .shifted_uv(*rng.uniform(0, 4, 2)))  # fmt: skip
            end += w
    model.put(edge)
    bench = Thing("bench")
    for k in range(4):
        bench.add(
            "weathered timber",
            box([-0.9, -0.22 + 0.115 * k, 0.41], [0.9, -0.12 + 0.115 * k, 0.45], 0.006, along=0).shifted_uv(k, 0.4 * k),
        )
    for x in (-0.75, 0.65):
        bench.add("dressed stone", box([x, -0.2, -0.02], [x + 0.1, 0.2, 0.41], 0.008))
    model.put(bench, at=[place((4.9, -1.05, 0.0)), place((8.0, -1.05, 0.0)), place((11.0, -3.6, 0.0), 8)])
    pots = Thing("pots")
    profile = [
        (0.0, 0.0),
        (0.16, 0.0),
        (0.2, 0.16),
        (0.24, 0.36),
        (0.26, 0.37),
        (0.26, 0.42),
        (0.225, 0.42),
        (0.2, 0.36),
        (0.0, 0.36),
    ]
    pots.add("terracotta", lathe(profile, 24))
    model.put(pots, at=[place((x, -0.95, -0.02), 30 * k) for k, x in enumerate((0.4, 3.45, 6.5, 9.5, 12.75, 15.45))])


def wheel(model: Model) -> None:
    """The overshot wheel at the west gable, its trough and posts."""
    wheel = Thing("wheel")
    r, count, half = 1.85, 24, 0.42
    for k in range(count):
        a, b = 2 * np.pi * k / count, 2 * np.pi * (k + 1) / count
        for x in (-half, half):
            wheel.add(
                "wet timber", beam((x, r * np.cos(a), r * np.sin(a)), (x, r * np.cos(b), r * np.sin(b)), 0.07, 0.24)
            )
        inner = 0.82
        wheel.add(
            "wet timber",
            beam(
                (0, inner * r * np.cos(a + 0.14), inner * r * np.sin(a + 0.14)),
                (0, 1.03 * r * np.cos(a), 1.03 * r * np.sin(a)),
                2 * half,
                0.03,
            ),
        )
        if k % 3 == 0:
            for x in (-half, half):
                wheel.add("wet timber", beam((x, 0, 0), (x, 0.95 * r * np.cos(a), 0.95 * r * np.sin(a)), 0.08, 0.1))
    wheel.add("wet timber", tube([(-0.85, 0, 0), (1.2, 0, 0)], 0.14, 10))
    model.put(wheel, at=[place((-1.75, 3.5, 1.15))])
    trough = Thing("trough")
    for low, high in (
        ([-2.15, 3.3, 3.14], [-1.35, 22.0, 3.19]),
        ([-2.2, 3.3, 3.14], [-2.15, 22.0, 3.55]),
        ([-1.35, 3.3, 3.14], [-1.3, 22.0, 3.55]),
    ):
        trough.add("weathered timber", box(low, high, 0.004, along=1))
    for y in np.arange(6.0, 22.0, 3.2):
        for x in (-2.25, -1.4):
            trough.add("weathered timber", box([x, y, -0.6], [x + 0.16, y + 0.16, 3.14], 0.006, along=2))
        trough.add("weathered timber", box([-2.4, y, 2.98], [-1.1, y + 0.16, 3.14], 0.006))
    trough.add("pond water", polygon([(-2.15, 3.35, 3.42), (-1.35, 3.35, 3.42), (-1.35, 22, 3.42), (-2.15, 22, 3.42)]))
    trough.add("dressed stone", box([-3.0, 3.2, -0.8], [-2.7, 3.8, 1.0], 0.02))
    model.put(trough)
