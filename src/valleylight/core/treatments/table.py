"""A lookup table laid on the display's values (sRGB code values in and out): curves of one dimension by straight lines, tables of three
dimensions by straight lines between the eight corners of a cell (trilinear; Cube LUT Specification 1.0)."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from valleylight.core.treatments.base import Picture, Spatial, row_kernel
from valleylight.core.treatments.seen import Seen


class Table(Spatial):
    """A table of colours from a .cube file, at any strength."""

    TITLE: ClassVar[str] = "Lookup table"
    PLACE: ClassVar[int] = 70
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["table"] = "table"
    file: str | None = Field(None, pattern=r"^[0-9a-f]{64}$", description="SHA-256 of its file; None: no table yet")
    name: str = Field("", max_length=80)

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        from valleylight.core.colour.rgb import srgb_decode, srgb_encode
        from valleylight.core.treatments.run import in_bands

        cube = seen.tables.get(self.file or "")
        if cube is None:
            return picture
        codes = srgb_encode(np.clip(picture, 0, 1)).astype(np.float32)
        low, high = np.array(cube.low, np.float32), np.array(cube.high, np.float32)
        at = (codes - low) / (high - low)
        if cube.is_solid:
            result = np.empty_like(codes)
            in_bands(solid_rows, len(at), at, cube.values, result)
        else:
            steps = np.linspace(0, 1, len(cube.values))
            result = np.stack([np.interp(at[..., c], steps, cube.values[:, c]) for c in range(3)], axis=-1)
        return np.asarray(srgb_decode(np.clip(result, 0, 1)), np.float32)


@row_kernel
def solid_rows(source: Any, values: Any, result: Any, first: int, last: int) -> None:
    """Places (H, W, 3), 0 to 1, looked up in a table (N, N, N, 3) by blue, green, red, for rows first to last."""
    n = values.shape[0]
    for y in range(first, last):
        for x in range(source.shape[1]):
            r = min(max(source[y, x, 0], 0.0), 1.0) * (n - 1)
            g = min(max(source[y, x, 1], 0.0), 1.0) * (n - 1)
            b = min(max(source[y, x, 2], 0.0), 1.0) * (n - 1)
            i, j, k = min(int(r), n - 2), min(int(g), n - 2), min(int(b), n - 2)
            r, g, b = r - i, g - j, b - k
            for c in range(3):
                near = (1 - g) * ((1 - r) * values[k, j, i, c] + r * values[k, j, i + 1, c]) + g * (
                    (1 - r) * values[k, j + 1, i, c] + r * values[k, j + 1, i + 1, c]
                )
                far = (1 - g) * ((1 - r) * values[k + 1, j, i, c] + r * values[k + 1, j, i + 1, c]) + g * (
                    (1 - r) * values[k + 1, j + 1, i, c] + r * values[k + 1, j + 1, i + 1, c]
                )
                result[y, x, c] = (1 - b) * near + b * far
