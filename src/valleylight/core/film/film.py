"""The film: what a trace adds up, told apart by light group, with the passes beside it."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray


@dataclass
class Film:
    """Sums of a trace. `light` (H, W, G, 3) and `auxiliary` (H, W, 8) are sums over `samples` samples a pixel.

    `group_names` names the G light groups. Luminance-scaled linear RGB in cd/m2 once divided by the samples.
    """

    light: NDArray[np.float32]
    auxiliary: NDArray[np.float32]
    group_names: tuple[str, ...]
    samples: int = 0
    clean: dict[str, NDArray[np.float32]] = field(default_factory=dict)
    settings: dict[str, Any] = field(default_factory=dict)

    @classmethod
    def empty(cls, width: int, height: int, group_names: tuple[str, ...]) -> Film:
        return cls(
            np.zeros((height, width, len(group_names), 3), np.float32), np.zeros((height, width, 8), np.float32),
            group_names,
        )  # fmt: skip

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.light.shape[1], self.light.shape[0]

    @property
    def groups(self) -> dict[str, NDArray[np.float32]]:
        """Each light group's picture, H x W x 3 float32 in cd/m2; free of noise where `remove_noise` has run."""
        scale = np.float32(1.0 / max(self.samples, 1))
        return {
            name: self.clean[name] if name in self.clean else self.light[:, :, k] * scale
            for k, name in enumerate(self.group_names)
        }

    @property
    def passes(self) -> dict[str, NDArray[np.float32]]:
        """`surface_colour` and `normal` (H x W x 3), `depth` in m (H x W, infinite where nothing was met)."""
        scale = np.float32(1.0 / max(self.samples, 1))
        hits = self.auxiliary[..., 7]
        with np.errstate(divide="ignore", invalid="ignore"):
            depth = np.where(hits > 0, self.auxiliary[..., 6] / hits, np.inf).astype(np.float32)
        return {
            "surface_colour": np.clip(self.auxiliary[..., 0:3] * scale, 0, 1),
            "normal": self.auxiliary[..., 3:6] * scale,
            "depth": depth,
        }

    def balanced(self, levels: dict[str, float] | None = None) -> NDArray[np.float32]:
        """The linear picture, H x W x 3 in cd/m2: the groups added at their levels (1 unless named)."""
        levels = levels or {}
        total = np.zeros((*self.light.shape[:2], 3), np.float32)
        for name, picture in self.groups.items():
            level = levels.get(name, 1.0)
            if level == 1.0:
                total += picture
            elif level != 0.0:
                total += picture * np.float32(level)
        return total
