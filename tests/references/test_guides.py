"""Noise removal with cleaned guides keeps the grain that the surfaces have, and loses no light."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core.film.denoise import clean_guides, clean_picture


def noisy_lawn(samples: int = 6) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """A surface whose colour and lean change from pixel to pixel, lit from one side; truth, and picture and guides of few samples."""
    rng = np.random.default_rng(5)
    blades = rng.uniform(0.05, 0.4, (64, 64)).repeat(2, 0).repeat(2, 1)
    lean = rng.normal(0, 0.5, (64, 64)).repeat(2, 0).repeat(2, 1)
    normal = np.stack([lean, 0 * lean, np.ones_like(lean)], -1)
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    colour = blades[..., None] * [0.6, 1.0, 0.3]
    shade = np.clip(normal @ np.array([0.6, 0.0, 0.8]), 0, None)[..., None]
    truth = colour * shade
    # Each sample of a pixel sees a neighbour as often as itself.
    picture, seen, stood = np.zeros_like(truth), np.zeros_like(truth), np.zeros_like(truth)
    for _ in range(samples):
        i = np.clip(np.arange(128)[:, None] + rng.integers(-1, 2, (128, 128)), 0, 127)
        j = np.clip(np.arange(128)[None] + rng.integers(-1, 2, (128, 128)), 0, 127)
        picture += truth[i, j] * rng.exponential(1.0, (128, 128, 1)) / samples
        seen, stood = seen + colour[i, j] / samples, stood + normal[i, j] / samples
    return tuple(np.ascontiguousarray(v, np.float32) for v in (truth, picture, seen, stood))  # type: ignore[return-value]


def test_cleaned_guides_bring_the_picture_nearer_to_the_truth_and_keep_its_light():
    truth, picture, colour, normal = noisy_lawn()
    plain = clean_picture(picture, colour, normal)
    led = clean_picture(picture, *clean_guides(colour, normal), trusted=True)
    assert led.mean() == pytest.approx(picture.mean(), rel=0.03)
    error = [float(np.sqrt(np.mean((p - truth) ** 2))) for p in (picture, plain, led)]
    assert error[2] < 0.75 * error[0]
    assert error[2] < 1.1 * error[1]
    grain = [float(p[..., 1].std()) for p in (truth, plain, led)]
    assert grain[2] > 0.5 * grain[0]  # blades are not smeared into one green


def test_guides_keep_their_range():
    _, _, colour, normal = noisy_lawn(2)
    clean_colour, clean_normal = clean_guides(colour, normal)
    assert clean_colour.min() >= -1e-3 and clean_colour.max() < 1.1 * colour.max()
    assert clean_colour.mean() == pytest.approx(colour.mean(), rel=0.03)
    assert np.median(np.linalg.norm(clean_normal, axis=-1)) > 0.7
