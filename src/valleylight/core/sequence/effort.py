"""How much is traced for a frame."""

from __future__ import annotations

#: Samples of each pixel of a frame: fewer than a plate's, for the frames before count too. A frame that has none before it gets twice as many.
SAMPLES = {"sketch": 3, "proof": 6, "press": 24}
WITHOUT_BEFORE = 2
