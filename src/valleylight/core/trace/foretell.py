"""How long a picture will take, from a short run of its own tiles, and what parts of the scene add to that.

Tiles spread evenly over the picture are traced for as many samples as it takes to tell their noise. The standard error of a mean falls
with the square root of the samples, so a tile whose error is e after n of them falls below a target t after n (e / t)^2; it is traced
until then, or to the end. What a tile costs a sample is measured by itself, for dear tiles are often noisy ones.
"""

from __future__ import annotations

import math
import os
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.film.denoise import clean_picture
from valleylight.core.film.film import Film
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Occasion, View
from valleylight.core.project.weather import Weather
from valleylight.core.trace.render import BATCH, add_samples, new_film
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import Quality
from valleylight.core.trace.tiles import LEAST_SAMPLES, Tile, noise_of, tiles

#: Tiles that are tried and their samples; those of one pass.
TRIED, SAMPLES, FEW_SAMPLES = 48, 12, 3
#: Size of the picture by which the removal of noise is measured.
CLEANED = (480, 270)


@dataclass(frozen=True)
class Foretold:
    """Seconds to trace a picture and to remove its noise, on this machine (its scene is set up by now, and kept); mean samples a pixel; seconds
    of work of one sample of the tiles that were tried."""

    tracing_s: float
    cleaning_s: float
    samples: float
    tried_s: float

    @property
    def seconds(self) -> float:
        """From now until the picture is there."""
        return self.tracing_s + self.cleaning_s


@dataclass(frozen=True)
class Addition:
    """A part of a scene and the seconds of tracing that it adds (below zero where it saves some)."""

    name: str
    seconds: float


def foretell(
    compiler: Compiler, project: LoadedProject, view: View, occasion: Occasion, size: tuple[int, int], quality: Quality,
    samples: int | None = None, seed: int = 1,
) -> Foretold:  # fmt: skip
    """How long a picture of a size would take at a quality, to so many samples (the quality's own unless given)."""
    most = samples or quality.samples
    scene = compiler.scene(project, view, occasion, *size, seed, quality)
    film = new_film(scene, view, occasion, *size, quality.masks)
    chosen = spread(tiles(*size), TRIED)
    count = min(SAMPLES if quality.noise > 0 else 2 * FEW_SAMPLES, most)
    costs, together = _traced(scene, film, chosen, count)
    wanted = np.array([samples_for(film, tile, quality.noise, count, most) for tile in chosen])
    # Tiles at the edges are smaller than the others: what counts is the picture's pixels.
    pixels = np.array([(x1 - x0) * (y1 - y0) for x0, y0, x1, y1 in chosen], float)
    a_sample = costs / (count * pixels)
    tracing = float((a_sample * wanted * pixels).sum() / pixels.sum()) * size[0] * size[1] * together
    mean = float((wanted * pixels).sum() / pixels.sum())
    return Foretold(tracing, _cleaning_s(film, size), mean, float(costs.sum()) / count)


def _cleaning_s(film: Film, size: tuple[int, int]) -> float:
    """Seconds to remove the noise of each light that has any, from one small picture of the same kind."""
    width, height = min(CLEANED[0], size[0]), min(CLEANED[1], size[1])
    noise = np.random.default_rng(1).random((height, width, 3), np.float32)
    began = time.perf_counter()
    clean_picture(noise, noise, noise)
    lit = int(film.light.any((0, 1, 3)).sum())
    return (time.perf_counter() - began) * size[0] * size[1] / (width * height) * lit


def samples_for(film: Film, tile: Tile, target: float, count: int, most: int) -> int:
    """Samples after which a tile that has `count` of them is left alone: whole batches, as they are traced."""
    if target <= 0:
        return most
    noise = noise_of(film, tile)
    needed = LEAST_SAMPLES if noise <= 0 else count * (noise / target) ** 2
    return int(min(max(math.ceil(needed / BATCH) * BATCH, LEAST_SAMPLES), most))


def additions(
    compiler: Compiler, project: LoadedProject, view: View, occasion: Occasion, size: tuple[int, int], quality: Quality,
    whole: Foretold, seed: int = 1,
) -> list[Addition]:  # fmt: skip
    """What fog, weather, light through water, blur, lamps and objects add to a picture that was foretold, each by a run without it."""

    def a_sample_s(loaded: LoadedProject, seen: View, at: Occasion) -> float:
        scene = compiler.scene(loaded, seen, at, *size, seed, quality)
        film = new_film(scene, seen, at, *size)
        return float(_traced(scene, film, spread(tiles(*size), TRIED), 2 * FEW_SAMPLES)[0].sum()) / (2 * FEW_SAMPLES)

    return [
        Addition(name, whole.tracing_s * (1 - a_sample_s(*without) / whole.tried_s))
        for name, without in _without(project, view, occasion)
    ]  # fmt: skip


def _without(
    project: LoadedProject, view: View, occasion: Occasion
) -> Iterator[tuple[str, tuple[LoadedProject, View, Occasion]]]:
    d = project.description
    if occasion.air.on:
        yield "fog", (project, view, occasion.model_copy(update={"air": occasion.air.model_copy(update={"on": False})}))
    if occasion.weather.lies or occasion.weather.falls:
        yield "weather", (project, view, occasion.model_copy(update={"weather": Weather()}))
    if d.stage.light_net.on:
        stage = d.stage.model_copy(update={"light_net": d.stage.light_net.model_copy(update={"on": False})})
        yield (
            "light through water",
            (LoadedProject(d.model_copy(update={"stage": stage}), project.asset), view, occasion),
        )
    if view.focus_m is not None:
        yield "blur", (project, view.model_copy(update={"focus_m": None}), occasion)
    lit = {f.group for f in d.fixtures if f.on and occasion.levels.get(f.group, 100.0) > 0}
    if lit:
        yield (
            "lamps",
            (project, view, occasion.model_copy(update={"levels": {**occasion.levels, **dict.fromkeys(lit, 0.0)}})),
        )
    if any(p.made is not None for p in d.placements):
        left = tuple(p for p in d.placements if p.made is None)
        bare = LoadedProject(d.model_copy(update={"placements": left}), project.asset)
        yield "objects", (bare, view, occasion)


def spread(every: list[Tile], count: int) -> list[Tile]:
    """So many of a picture's tiles, evenly over it: every so many of them, row by row."""
    if len(every) <= count:
        return every
    step = len(every) / count
    return [every[int((k + 0.5) * step)] for k in range(count)]


def _traced(scene: RenderScene, film: Film, chosen: list[Tile], count: int) -> tuple[NDArray[np.float64], float]:
    """Seconds of work of each tile, taken in passes, and what share of their sum has passed meanwhile: less than 1 where cores share the
    work."""
    passes = [range(first, min(first + FEW_SAMPLES, count)) for first in range(0, count, FEW_SAMPLES)]
    costs = np.zeros((len(passes), len(chosen)))
    together = []

    def one(k: int, number: int, samples: range) -> None:
        began = time.perf_counter()
        add_samples(scene, film, chosen[k], samples.start, samples.stop)
        costs[number, k] = (time.perf_counter() - began) / len(samples)

    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        for number, samples in enumerate(passes):
            began = time.perf_counter()
            list(pool.map(lambda k: one(k, number, samples), range(len(chosen))))  # noqa: B023
            together.append((time.perf_counter() - began) / max(float(costs[number].sum() * len(samples)), 1e-9))
    film.samples = count
    # The first pass fills caches; of the others the middle one, for the machine has other work at times.
    later = slice(1, None) if len(passes) > 1 else slice(None)
    return np.median(costs[later], 0) * count, float(np.median(together[later]))
