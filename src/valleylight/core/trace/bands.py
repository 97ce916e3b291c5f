"""Large pictures band by band, each traced, freed of noise and written before the next is begun."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

from valleylight.core.film.denoise import remove_noise
from valleylight.core.film.exr import BandWriter, channels_of
from valleylight.core.finish.balance import balance_of
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.captions import caption_of
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.render import BATCH, new_film, trace_tiles
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import Quality
from valleylight.core.trace.tiles import tiles

#: Rows of a band, and rows beyond it on either side that only guide the noise removal.
BAND, MARGIN = 512, 48


def render_to_exr(
    project: LoadedProject, view_key: str, occasion_key: str, width: int, height: int, samples: int, path: str | Path,
    seed: int = 1, quality: Quality | None = None, clean: str | None = "high", band: int = BAND,
    progress: Callable[[float], bool] | None = None,
) -> bool:  # fmt: skip
    """Trace a picture of up to 8192 x 8192 into a multi-layer EXR file without holding more than a band of it.

    Pixels are the same as those of `render` before noise removal. `progress(share)` may stop by returning False; the
    file is then not left behind. Returns whether it was written. Raises as `render` does.
    """
    from valleylight.core.trace.scene.quality import TRUE

    view, occasion = project.description.view(view_key), project.description.occasion(occasion_key)
    scene = Compiler().scene(project, view, occasion, width, height, seed, quality or TRUE)
    target = Path(path)
    partial = target.with_suffix(".part")
    done = 0
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool, BandWriter(partial, width, height) as file:
        for top in range(0, height, band):
            low, high = max(top - MARGIN, 0), min(top + band + MARGIN, height)
            part = _framed(scene, low)
            film = new_film(part, view, occasion, width, high - low, masks=(quality or TRUE).masks)
            for first in range(0, samples, BATCH):
                trace_tiles(part, film, tiles(width, high - low), first, min(first + BATCH, samples), pool)
            film.samples = samples
            if clean is not None:
                remove_noise(film, clean)
            kept = slice(top - low, min(top + band, height) - low)
            channels, entries = channels_of(
                film, balance_of(occasion).gains(film), caption_of(project.description, view, occasion)
            )
            file.add({name: c[kept] for name, c in channels.items()}, entries)
            done = min(top + band, height)
            if progress is not None and not progress(done / height):
                break
    if done < height:
        partial.unlink()
        return False
    partial.replace(target)
    return True


def _framed(scene: RenderScene, top: int) -> RenderScene:
    """The scene with its film's first row at row `top` of the picture."""
    settings = scene.settings.copy()
    settings[layout.FRAME_Y] = top
    return replace(scene, settings=settings)
