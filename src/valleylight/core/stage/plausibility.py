"""Is the stage fit to be lit? Reflectances, placeholders and colours that no survey would find.

Limits: diffuse reflectance 0.03 to 0.90, no pure saturated colour (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from valleylight.core.colour.rgb import LUMINANCE, srgb_decode
from valleylight.core.stage.model import Material, StageData

LEAST, MOST = 0.03, 0.90
#: Greys that modellers hand out when nobody chose a material.
UNCHOSEN = ((0.8, 0.8, 0.8), (1.0, 1.0, 1.0), (0.5, 0.5, 0.5), (0.588, 0.588, 0.588))


@dataclass(frozen=True)
class Finding:
    """What is doubtful about a material, and what to do."""

    material: str
    kind: str  # placeholder, too dark, too bright, saturated
    message: str


def mean_colour(material: Material, stage: StageData) -> np.ndarray:
    """Mean diffuse reflectance, linear RGB, over the material's picture where it has one."""
    base = np.array(material.base)
    if material.base_texture >= 0:
        pixels = stage.textures[material.base_texture].pixels[::8, ::8].reshape(-1, 3)
        base = base * srgb_decode(pixels / 255.0).mean(0)
    if material.pattern != "none":
        base = (base + np.array(material.pattern_tint)) / 2
    return base


def findings(stage: StageData, materials: tuple[Material, ...]) -> list[Finding]:
    """Doubtful materials among those in use; `materials` are the stage's as the artist has dressed them."""
    out = []
    for number in stage.used:
        m = materials[number]
        if m.thin_glass or m.solid_glass or m.emits:
            continue
        plain = m.base_texture < 0 and m.pattern == "none"
        if m.name == "placeholder" or (
            plain and m.metal < 0.5 and any(np.allclose(m.base, u, atol=0.004) for u in UNCHOSEN)
        ):
            out.append(Finding(m.name, "placeholder", "still has a placeholder; choose a surface for it"))
            continue
        if m.metal > 0.5 or m.conductor:
            continue
        colour = mean_colour(m, stage)
        rho = float(colour @ LUMINANCE)
        if rho < LEAST:
            out.append(Finding(m.name, "too dark", f"reflects {rho:.3f}; few surfaces reflect less than {LEAST}"))
        elif rho > MOST:
            out.append(Finding(m.name, "too bright", f"reflects {rho:.2f}; fresh snow reflects {MOST}: make it darker"))
        elif colour.max() > 0.6 and colour.min() < 0.01:
            out.append(Finding(m.name, "saturated", "is a pure colour; mix in some of the others"))
    return out
