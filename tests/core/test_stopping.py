"""Noise removal and small pictures are left midway when something newer is wanted."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core.errors import StoppedError
from valleylight.core.film.denoise import clean_picture
from valleylight.core.preview.sample import sample_picture
from valleylight.core.stage import Material


def test_noise_removal_stops_when_told_and_is_whole_when_not():
    rng = np.random.default_rng(1)
    picture, flat = rng.random((270, 480, 3), dtype=np.float32), np.full((270, 480, 3), 0.5, np.float32)
    asked = []
    with pytest.raises(StoppedError):
        clean_picture(picture, flat, flat, "balanced", lambda: bool(asked.append(1)) or len(asked) > 3)
    assert len(asked) == 4
    whole = clean_picture(picture, flat, flat, "balanced")
    assert np.array_equal(clean_picture(picture, flat, flat, "balanced", lambda: False), whole)


def test_a_sample_picture_stops_when_told():
    with pytest.raises(StoppedError):
        sample_picture(Material(), size=48, stop=lambda: True)
    assert sample_picture(Material(), size=48).shape == (48, 48, 3)
