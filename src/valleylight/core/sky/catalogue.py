"""Skies to choose from: air and clouds under names of weather. The hour lights them."""

from __future__ import annotations

from dataclasses import dataclass

from valleylight.core.project.sky import CloudLayer, Clouds, Glow, Sky


@dataclass(frozen=True)
class SkyEntry:
    """A sky of the catalogue."""

    key: str
    name: str
    sky: Sky


def _layer(
    kind: str, cover: float, base: float, depth: float, density: float, size: float, ragged: float = 0.5
) -> CloudLayer:
    return CloudLayer(kind=kind, cover=cover, base_m=base, depth_m=depth, density=density, size_m=size, ragged=ragged)  # type: ignore[arg-type]


def _entry(key: str, name: str, turbidity: float, *layers: CloudLayer, seed: int = 1, **more: object) -> SkyEntry:
    clouds = Clouds(name=name, layers=layers, seed=seed) if layers else Clouds()
    return SkyEntry(key, name, Sky(turbidity=turbidity, clouds=clouds, **more))  # type: ignore[arg-type]


CATALOGUE: tuple[SkyEntry, ...] = (
    _entry("clear-deep", "Clear, deep blue", 1.9),
    _entry("clear", "Clear", 2.6),
    _entry("haze", "Summer haze", 5.0),
    _entry("high-veil", "High thin veil", 2.8, _layer("veil", 0.92, 8500, 900, 0.0007, 9000, 0.3)),
    _entry("streaks", "High streaks", 2.3, _layer("streaks", 0.45, 9000, 800, 0.0011, 5200, 0.3), seed=3),
    _entry("fair", "Fair-weather heaps", 2.5, _layer("heaped", 0.22, 1500, 600, 0.030, 2100, 0.55), seed=5),
    _entry("scattered", "Scattered heaps and streaks", 2.5, _layer("heaped", 0.32, 1400, 900, 0.030, 2700, 0.55),
           _layer("streaks", 0.35, 9000, 700, 0.0008, 5000, 0.3), seed=2),
    _entry("broken", "Broken cloud", 2.8, _layer("heaped", 0.62, 1300, 1300, 0.030, 3800, 0.6), seed=4),
    _entry("mackerel", "Mackerel sky", 2.5, _layer("cells", 0.52, 4800, 320, 0.010, 1050, 0.5), seed=7),
    _entry("thin-overcast", "Thin overcast", 3.0, _layer("sheet", 1.0, 2600, 420, 0.030, 6000, 0.35), seed=2),
    _entry("overcast", "Overcast", 3.2, _layer("sheet", 1.0, 900, 800, 0.062, 5200, 0.45), seed=3),
    _entry("storm", "Storm coming", 3.0, _layer("sheet", 0.93, 800, 2400, 0.040, 9000, 0.7),
           _layer("heaped", 0.30, 600, 500, 0.034, 2400, 0.7), seed=8),
    _entry("fog-bank", "Fog bank lifting", 4.2, _layer("sheet", 0.86, 130, 170, 0.024, 2400, 0.6), seed=6),
    _entry("sunset-banks", "Banks for a low sun", 2.2, _layer("streaks", 0.55, 3600, 500, 0.010, 9000, 0.4),
           _layer("heaped", 0.16, 1700, 700, 0.026, 4200, 0.6), seed=9),
    _entry("town-night", "Clear over a town", 3.4, glow=Glow(luminance=0.03, azimuth_deg=220.0)),
)  # fmt: skip


def find(key: str) -> SkyEntry | None:
    """The sky of a key."""
    return next((e for e in CATALOGUE if e.key == key), None)
