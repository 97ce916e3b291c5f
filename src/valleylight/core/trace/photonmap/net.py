"""Send the photons of a net of light and lay them out for gathering."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from valleylight.core.lamps import record
from valleylight.core.project.air import LightNet
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.scene import NO_NET, SceneArrays
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import camera_ray
from valleylight.core.trace.lights import lamplight
from valleylight.core.trace.media import air
from valleylight.core.trace.photonmap import photons

F32 = np.float32
#: Photons are sent in so many batches, whatever the number of threads, so that the result does not depend on it.
BATCHES = 16
MOST_CELLS = 24_000_000
#: Share of the photons kept for fixtures where sun and fixtures both light the casters.
LEAST_SHARE = 0.15
#: How far aside light gathered from the sky's side lands, over the height it falls.
SIDEWAYS = 1.2


def net_arrays(
    arrays: SceneArrays, settings: NDArray[np.float64], net: LightNet, boxes: NDArray[np.float64], fineness: float,
    seed: int, threads: int,
) -> dict[str, object]:  # fmt: skip
    """The arrays `net`, `photons` and `photon_cells` of a scene. `boxes` (C, 6) are its casters; `fineness` divides the
    radius and multiplies the photons with its square. Nothing is gathered where no caster touches the region."""
    low, high = np.array(net.low), np.array(net.high)
    reach = max(SIDEWAYS * float(high[2] - low[2]), 0.5)  # what stands about the region may throw light into it
    near = (
        (boxes[:, layout.three(layout.LOW)] <= high + reach) & (boxes[:, layout.three(layout.HIGH)] >= low - reach)
    ).all(1)
    # Of a wide water only what lies about the region throws light into it.
    aside = np.array([reach, reach, np.inf])
    least, most = low - aside, high + aside
    casters = np.concatenate(
        [
            np.maximum(boxes[near, layout.three(layout.LOW)], least),
            np.minimum(boxes[near, layout.three(layout.HIGH)], most),
        ],
        1,
    )
    sun = settings[layout.SUN_ON] > 0
    pairs, weights = _pairs(arrays, casters)
    if not len(casters) or not (sun or len(pairs)):
        return NO_NET
    radius = net.fineness_m / fineness
    count = int(net.photons * fineness**2)
    by_lamps = 0
    if len(pairs):
        lit_by_sun = float(arrays.sun[layout.SUN_LUMINANCE + 1] / arrays.sun[layout.SUN_DENSITY]) if sun else 0.0
        flux = float(weights.sum())
        area = float(
            np.prod(
                np.sort(casters[:, layout.three(layout.HIGH)] - casters[:, layout.three(layout.LOW)], 1)[:, 1:],
                axis=1,
            ).sum()
        )
        share = flux / (flux + lit_by_sun * area)
        by_lamps = int(count * (np.clip(share, LEAST_SHARE, 1 - LEAST_SHARE) if sun else 1.0))
    kept: list[NDArray[np.float32]] = []
    box = np.concatenate([low, high])

    def send(source: str, total: int, batch: int) -> NDArray[np.float32]:
        first, last = total * batch // BATCHES, total * (batch + 1) // BATCHES
        out = np.zeros((max(last - first, 1), layout.LANDED_WIDTH), F32)
        number = int(photons.seed_of(seed & 0xFFFFFFFF, batch + (1000 if source == "lamps" else 0)))
        work = rays.new_work(settings)
        if source == "sun":
            n = photons.from_the_sun(
                arrays, work, box, casters, _shares(_sun_areas(arrays, casters)), out, 0, first, last, number
            )
        else:
            n = photons.from_lamps(arrays, work, box, casters, pairs, _shares(weights), out, 0, first, last, number)
        # Powers are those of a batch that stands alone.
        out[:n, 6:9] *= F32((last - first) / max(total, 1))
        return out[:n]

    with ThreadPoolExecutor(threads) as pool:
        jobs = [pool.submit(send, "sun", count - by_lamps, b) for b in range(BATCHES)] if sun else []
        jobs += [pool.submit(send, "lamps", by_lamps, b) for b in range(BATCHES)] if by_lamps else []
        kept = [job.result() for job in jobs]
    landed = np.concatenate(kept) if kept else np.zeros((0, layout.LANDED_WIDTH), F32)
    size = 2 * radius
    while np.prod(np.ceil((high - low) / size)) > MOST_CELLS:
        size *= 1.5
    cells = np.maximum(np.ceil((high - low) / size), 1).astype(int)
    header = np.concatenate([low, high, [size], cells, [radius]]).astype(float)
    counts = np.zeros(int(cells.prod()) + 1, np.int64)
    photons.count_cells(header, landed, counts)
    np.cumsum(counts, out=counts)
    ordered = np.zeros_like(landed)
    photons.sort_cells(header, landed, counts[:-1].copy(), ordered)
    return {"net": header, "photons": ordered, "photon_cells": counts}


def sees(arrays: SceneArrays, camera: NDArray[np.float64], net: LightNet) -> bool:
    """Whether a view has any of the net's region before it: a grid of rays through the frame, some of which enter the
    region with nothing opaque before it."""
    box = np.concatenate([net.low, net.high]).astype(float)
    ray = rays.new_ray()
    word = ray.view(np.uint32)
    for y in (np.arange(9) + 0.5) / 9:
        for x in (np.arange(16) + 0.5) / 16:
            ox, oy, oz, dx, dy, dz = camera_ray(camera, float(x), float(y), 1.0, 1.0, 0.5, 0.5, 0.0)
            near, far = air.clip(box, ox, oy, oz, dx, dy, dz, 1e4)
            if far <= near:
                continue
            if near <= 0 or not rays.blocked(arrays.handle, ray, word, ox, oy, oz, dx, dy, dz, near, rays.OPAQUE):
                return True
    return False


def _sun_areas(arrays: SceneArrays, casters: NDArray[np.float64]) -> NDArray[np.float64]:
    """Area in m2 of each caster's box as the sun sees it."""
    half = (casters[:, layout.three(layout.HIGH)] - casters[:, layout.three(layout.LOW)]) / 2 + 1e-3
    d = np.abs(arrays.sun[layout.three(layout.SUN_TOWARDS)])
    return np.asarray(
        4 * (d[0] * half[:, 1] * half[:, 2] + d[1] * half[:, 0] * half[:, 2] + d[2] * half[:, 0] * half[:, 1])
    )


def _shares(weights: NDArray[np.float64]) -> NDArray[np.float64]:
    """Cumulated shares (N + 1,)."""
    return np.concatenate([[0.0], np.cumsum(weights)]) / weights.sum()


def _pairs(arrays: SceneArrays, casters: NDArray[np.float64]) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Fixtures with the casters they send light to: (N, 2), and about the flux in lm of each pair."""
    pairs, weights = [], []
    lamps = arrays.lamps.astype(float)
    for c, box in enumerate(casters):
        middle, half = (
            (box[layout.three(layout.LOW)] + box[layout.three(layout.HIGH)]) / 2,
            (box[layout.three(layout.HIGH)] - box[layout.three(layout.LOW)]) / 2,
        )
        gap = middle - lamps[:, record.three(record.PLACE)]
        d2 = (gap**2).sum(1)
        r2 = float((half**2).sum())
        for k in range(len(lamps)):
            omega = 2 * np.pi * (1 - np.sqrt(1 - r2 / d2[k])) if d2[k] > 1.02 * r2 else 4 * np.pi
            to = gap[k] / np.sqrt(max(d2[k], 1e-9))
            e = float(lamplight.intensity(arrays.lamps, arrays.profiles, k, *map(float, to)))
            flux = omega * max(e, 0.02 * lamps[k, record.MEAN]) * float(lamps[k, record.three(record.COLOUR)].mean())
            if flux > 1e-4:
                pairs.append((k, c))
                weights.append(flux)
    return np.array(pairs, np.int64).reshape(-1, 2), np.array(weights, float)
