"""How far a picture is taken: sketch, proof, press."""

from __future__ import annotations

from dataclasses import dataclass, replace

from valleylight.core.trace.scene.lighting import DRAFT_ROWS, FINEST_ROWS, SKETCH_ROWS


@dataclass(frozen=True)
class Quality:
    """How far a picture is taken. `clamp_stops`: single contributions after a rough surface are held to so many stops above the
    lens's saturation, against fireflies (0 leaves them as they are), and what exceeds that is spread over the surfaces about; `soften`: roughness (alpha) given to mirrors seen
    after a rough bounce, against caustic noise; `net_fineness` divides the radius of
    gathered photons (0 gathers none and lets light straight through water); `splits`: branches of a path at its first matt
    surface; `sunlit`: rays of the sun sent into a room for the places its surfaces ask (0: none, see sunlit.py); `masks`:
    object and material masks are kept; `noise`: a tile is left alone once it has fallen below this (0: never, see `noisy_tiles`);
    `sky_rows`: height of the sky as it is seen; `sky_pixels`: side of a cell, in pixels of the picture, of the clouds that the lens looks at (0: no finer than the rest); `weather_cells`: nodes along the side of the grid on which snow and puddles lie; `boxes`: what stands on layers that are tried as boxes is seen so."""

    name: str
    width: int
    samples: int
    max_bounces: int = 8
    clamp_stops: float = 4.5
    soften: float = 0.15
    net_fineness: float = 1.0
    splits: int = 1
    sunlit: int = 32768
    masks: bool = False
    noise: float = 0.0
    sky_rows: int = 512
    sky_pixels: float = 0.0
    boxes: bool = False
    weather_cells: int = 448


SKETCH = Quality(
    "sketch",
    640,
    6,
    max_bounces=16,
    clamp_stops=3.0,
    net_fineness=0.0,
    splits=2,
    sunlit=2048,
    sky_rows=SKETCH_ROWS,
    weather_cells=240,
)
#: What follows a drag: as little as still reads.
DRAFT = replace(SKETCH, name="draft", sunlit=1024, sky_rows=DRAFT_ROWS)
PROOF = Quality("proof", 1280, 10, max_bounces=32, splits=2, sunlit=8192, masks=True, sky_rows=768, sky_pixels=1.5)
PRESS = Quality(
    "press",
    1920,
    96,
    max_bounces=64,
    clamp_stops=6.5,
    soften=0.1,
    net_fineness=2.5,
    splits=2,
    masks=True,
    noise=0.012,
    sky_rows=FINEST_ROWS,
    sky_pixels=1.25,
)
QUALITIES = {q.name: q for q in (SKETCH, PROOF, PRESS)}
#: Unbiased: for checks against closed forms.
TRUE = Quality("true", 0, 0, max_bounces=64, clamp_stops=0.0, soften=0.0)
