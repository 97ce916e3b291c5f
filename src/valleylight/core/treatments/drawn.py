"""The curve that a treatment lays over the scale of light, as an instrument draws it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from valleylight.core.errors import InputError
from valleylight.core.treatments.base import Bendable, Handle, Treatment
from valleylight.core.treatments.run import treated

#: Stops about white that a curve is drawn over, and its points.
LOW, HIGH, POINTS = -8.0, 8.0, 97


@dataclass(frozen=True)
class DrawnCurve:
    """What a grey becomes: `points` are stops about white and the value on the display's linear scale, 0 to 1."""

    points: tuple[tuple[float, float], ...]
    handles: tuple[Handle, ...]


def drawn(treatment: Treatment) -> DrawnCurve:
    """The curve of a treatment, by putting greys through it, switched on. Raises InputError for one that is no curve."""
    if not isinstance(treatment, Bendable):
        raise InputError("this treatment is no curve", "treatment", "Choose the tone curve")
    stops = np.linspace(LOW, HIGH, POINTS)
    held = treatment.handles()
    values = _through(treatment, np.concatenate([stops, [at for _, _, at in held]]))
    handles = zip(held, values[POINTS:], strict=True)
    return DrawnCurve(
        tuple(zip(stops.round(7).tolist(), values[:POINTS].round(6).tolist(), strict=True)),
        tuple(Handle(field, title, at, float(value)) for (field, title, at), value in handles),
    )


def _through(treatment: Treatment, stops: np.ndarray) -> np.ndarray:
    grey = np.repeat((2.0**stops).astype(np.float32)[None, :, None], 3, axis=2)
    return treated(grey, (treatment.model_copy(update={"on": True}),), 1.0)[0, :, 0].astype(float)
