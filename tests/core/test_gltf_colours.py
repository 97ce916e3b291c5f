"""Colours of vertices in glTF (3.7.2.1: linear, mixed over each triangle), as the tracer looks them up."""

from __future__ import annotations

import numpy as np
import pytest

from tests import glb
from tests.core.test_gltf_features import CHECKS, Doc, world
from valleylight.core.stage import StageData
from valleylight.core.trace.scene.materials import Reduced, pictures
from valleylight.core.trace.textures.lookup import lookup

RNG = np.random.default_rng(13)


def at(stage: StageData, u: float, v: float) -> tuple[float, float, float]:
    """Linear colour of the first textured material at texture coordinates, as the tracer looks it up."""
    number = next(m.base_texture for m in stage.materials if m.base_texture >= 0)
    table = pictures(stage.textures, {m.base_texture for m in stage.materials}, Reduced())
    return lookup(table["pixels"], table["texture_info"], table["decode"], number, u, v)


def colours_of(values: np.ndarray) -> Doc:
    return Doc(COLOR_0=values)


@pytest.mark.parametrize(("low", "high", "most"), [(0.34, 0.66, 0.012), (0.1, 0.9, 0.06), (0.0, 1.0, 0.12)])
def test_colours_of_vertices_are_linear_over_each_triangle(low, high, most):
    """At corners, on edges and inside. Exact to 8 bits, but where strong colours meet: there to some percent inside."""
    for seed in range(6):
        colours = np.random.default_rng(seed).uniform(low, high, (4, 3)).astype(np.float32)
        stage = colours_of(colours).read()
        mesh = stage.meshes[0]
        assert {stage.materials[m].name for m in mesh.material} == {"plain"}
        assert world(stage) == pytest.approx(world(Doc().read()))
        for triangle, corner in zip(mesh.triangles, glb.CORNERS.reshape(-1, 3), strict=True):
            for weights in ([1, 0, 0], [0, 1, 0], [0, 0, 1]):
                u, v = np.array(weights) @ mesh.uv[triangle]
                assert at(stage, u, v) == pytest.approx(np.array(weights) @ colours[corner], abs=0.012)
            for weights in ([0.5, 0.5, 0], [0, 0.5, 0.5], [1 / 3, 1 / 3, 1 / 3], [0.2, 0.1, 0.7]):
                u, v = np.array(weights) @ mesh.uv[triangle]
                assert at(stage, u, v) == pytest.approx(np.array(weights) @ colours[corner], abs=most)


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_colours_of_vertices_may_be_whole_numbers(dtype):
    whole = RNG.integers(0, np.iinfo(dtype).max, (4, 4)).astype(dtype)
    doc = colours_of(whole)
    doc.json["accessors"][doc.primitive["attributes"]["COLOR_0"]]["normalized"] = True
    stage = doc.read()
    corner = stage.meshes[0].uv[stage.meshes[0].triangles[0, 0]]
    assert at(stage, *corner) == pytest.approx(whole[0, :3] / np.iinfo(dtype).max, abs=0.01)


def test_one_colour_for_all_vertices_tints_the_material():
    doc = colours_of(np.tile(np.float32([0.5, 0.25, 1.0]), (4, 1)))
    stage = doc.material(pbrMetallicRoughness={"baseColorFactor": [0.8, 0.8, 0.5, 1]}).read()
    shown = stage.materials[stage.meshes[0].material[0]]
    assert shown.base == pytest.approx((0.4, 0.2, 0.5)) and shown.base_texture == -1 and shown.name == "m"
    white = colours_of(np.ones((4, 3), np.float32)).read()
    assert len(white.materials) == 2  # the square's and the placeholder: white changes nothing


def test_colours_of_vertices_besides_a_picture_are_taken_as_their_mean_with_a_word():
    colours = np.array([[1, 0, 0], [0, 1, 0], [0, 0, 1], [1, 1, 1]], np.float32)
    doc = colours_of(colours)
    stage = doc.material(pbrMetallicRoughness={"baseColorTexture": {"index": doc.picture(CHECKS)}}).read()
    shown = stage.materials[stage.meshes[0].material[0]]
    assert shown.base == pytest.approx(colours[glb.CORNERS].mean(0), abs=1e-3) and shown.base_texture == 0
    assert "besides its picture" in " ".join(stage.notes)


@pytest.mark.parametrize("colours", [np.ones((3, 3), np.float32), np.ones((4, 2), np.float32)])
def test_colours_that_do_not_fit_are_left_out(colours):
    assert "colours for 4 points" in " ".join(colours_of(colours).read().notes)


def test_colours_that_are_no_numbers_are_black_or_white():
    colours = np.array([[np.nan, 0.5, 0.5], [np.inf, -np.inf, 2], [0.5, 0.5, 0.5], [0, 0, 0]], np.float32)
    stage = colours_of(colours).read()
    assert all(np.isfinite(t.pixels).all() for t in stage.textures)
