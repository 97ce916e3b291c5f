"""Saturation: how far colours stand off the grey of their own luminance (ITU-R BT.709 luma weights)."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Operation, Pointwise, matrix, number

BT709 = np.array([0.2126, 0.7152, 0.0722])


class Saturation(Pointwise):
    """-1 is grey, 0 leaves colours as they are, 1 doubles their distance from grey."""

    TITLE: ClassVar[str] = "Saturation"
    PLACE: ClassVar[int] = 60

    kind: Literal["saturation"] = "saturation"
    amount: float = number(0.0, -1, 1, "Amount", 0.02)

    def operation(self) -> Operation:
        kept = 1.0 + self.amount
        return matrix(kept * np.eye(3) + (1.0 - kept) * np.tile(BT709, (3, 1)))
