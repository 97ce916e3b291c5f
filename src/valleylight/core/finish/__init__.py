"""Finishing: exposure by the photographic relation and the treatments of a look."""

from valleylight.core.finish.exposure import ev100, metered_ev100, saturation_luminance
from valleylight.core.finish.look import apply, apply_linear, encode
from valleylight.core.finish.seen import seen_of

__all__ = ["apply", "apply_linear", "encode", "ev100", "metered_ev100", "saturation_luminance", "seen_of"]
