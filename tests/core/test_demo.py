"""The demo project: complete, plausible, the same every time, and lit."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core import finish
from valleylight.core.colour.rgb import LUMINANCE, srgb_decode
from valleylight.core.stage import read_glb
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.demo import tarn_mill


@pytest.fixture(scope="module")
def demo():
    return tarn_mill.create()


@pytest.fixture(scope="module")
def compiler():
    return Compiler()


@pytest.fixture(scope="module")
def stage(demo):
    return read_glb(demo.asset(demo.description.placements[0].asset), "tarn-mill.glb")


def test_views_occasions_and_fixtures(demo):
    description = demo.description
    assert len(description.views) == 5 and len(description.occasions) == 4
    assert len(description.kinds) >= 8 and len(description.fixtures) >= 30
    for view in description.views:
        assert set(view.lens_at) == {o.key for o in description.occasions}
        assert set(view.look_at.values()) <= {look.key for look in description.looks}


def test_the_model_is_the_same_on_every_run(demo):
    import hashlib

    again = hashlib.sha256(tarn_mill.model_file()).hexdigest()
    assert again == demo.description.placements[0].asset


def test_layers_of_every_occasion_exist(demo, stage):
    for occasion in demo.description.occasions:
        assert demo.description.hidden_at(occasion) < {layer.key for layer in demo.description.layers}


def test_reflectances_are_plausible(stage):
    """Common practice: diffuse reflectances lie between about 0.03 and 0.90."""
    for material in stage.materials:
        if material.thin_glass or material.metal > 0.5 or material.name == "placeholder":
            continue
        colour = np.array(material.base)
        if material.base_texture >= 0:
            colour = colour * srgb_decode(stage.textures[material.base_texture].pixels / 255.0).reshape(-1, 3).mean(0)
        assert 0.025 < float(colour @ LUMINANCE) < 0.90, material.name


def test_real_dimensions(stage):
    """Doors and rooms of a size that people use: the table is 0.745 m high, the chair's seat 0.46 to 0.48 m."""
    heights = {p.name: stage.meshes[p.mesh].points[:, 2] for p in stage.instances if p.name in ("table", "chair")}
    tops = {
        p.name: (stage.meshes[p.mesh].points.astype(float) @ p.matrix[:3, :3].T + p.matrix[:3, 3])[:, 2].max()
        for p in stage.instances
        if p.name in heights
    }
    assert tops["table"] == pytest.approx(0.745, abs=1e-3)
    assert 0.8 < tops["chair"] < 0.95


@pytest.mark.parametrize("occasion", ["june-morning", "october-overcast", "winter-dusk", "july-night"])
@pytest.mark.parametrize("view", ["long-view", "from-the-pond"])
def test_every_picture_is_lit_and_exposed(demo, compiler, view, occasion):
    """Small pictures: neither black nor burnt, with something bright and something dark in each."""
    description = demo.description
    film = render(demo, view, occasion, 64, 36, 8, 1, SKETCH, compiler=compiler)
    v, o = description.view(view), description.occasion(occasion)
    picture = finish.apply(film, description.look_for(v, o), o.light_levels()).astype(float) @ LUMINANCE
    assert 25 < picture.mean() < 190
    assert np.percentile(picture, 97) - np.percentile(picture, 3) > 60
    assert (picture > 253).mean() < 0.08
