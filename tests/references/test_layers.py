"""The layers that few materials have, by the rules every BSDF keeps: energy, reciprocity, densities that are those of the samples.

Sources: A. Conty, C. Kulla, 2017 (sheen); B. Walter et al., 2007 (GGX, rough panes); A. Fresnel's equations.
"""

from __future__ import annotations

import math

import numpy as np
import pytest

from valleylight.core.stage.model import Material
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Paint, Vertex
from valleylight.core.trace.bsdf import albedo, layered, surface
from valleylight.core.trace.bsdf.paint import BY_CLEAR_COAT, BY_GLOSS, GLOSSY, draw
from valleylight.core.trace.scene.materials import material_table

UP = (0.0, 0.0, 1.0)
CLOTH = Material(
    name="cloth", base=(0.2, 0.1, 0.3), roughness=1.0, specular=0.0, sheen=(0.6, 0.5, 0.4), sheen_roughness=0.5
)
VARNISH = Material(name="varnish", base=(0.5, 0.3, 0.2), roughness=0.7, coat=1.0, coat_roughness=0.2)
LACQUER = Material(name="lacquer", base=(0.8, 0.8, 0.8), roughness=1.0, specular=0.0, coat=0.6, coat_roughness=0.0)
BRASS = Material(name="brass", conductor="brass", metal=1.0, roughness=0.35)
FROSTED = Material(name="frosted", thin_glass=True, roughness=0.4, index=1.5, tint=(0.9, 0.95, 1.0))
LAYERED = {m.name: m for m in (CLOTH, VARNISH, LACQUER, BRASS)}


def direction(cosine: float, turn_deg: float = 0.0) -> tuple[float, float, float]:
    sine = math.sqrt(1 - cosine * cosine)
    return sine * math.cos(math.radians(turn_deg)), sine * math.sin(math.radians(turn_deg)), cosine


def paint_of(table: np.ndarray, cosine: float, frosted: bool = False) -> Paint:
    """The paint of the first material of a table seen under a cosine, as `paint_at` makes it of a plain surface."""
    row = [float(x) for x in table[0]]
    red, green, blue = row[0:3]
    alpha = max(row[layout.ROUGH] ** 2, surface.LEAST_ALPHA) if row[layout.ROUGH] > 0 else 0.0
    metal, gloss, index = row[layout.METAL], row[layout.GLOSS], row[layout.INDEX]
    if frosted:
        reflected, _ = surface.pane(cosine, index)
        share = min(max(reflected, 0.1), 0.9)
        return Paint(red, green, blue, alpha, 0.0, 0.0, index, 1.0, share, 1.0, 0.0, -2.0, 0.0, 0.0)
    share = surface.specular_share(red, green, blue, metal, gloss, index, cosine)
    under, lost = albedo.seen_from(alpha, gloss, index, cosine)
    clear = layered.clear_share(table, 0, cosine)
    return Paint(red, green, blue, alpha, metal, gloss, index, 0.0, share, under, lost, 0.0, clear, 0.0)


def value(table: np.ndarray, paint: Paint, o, i) -> np.ndarray:
    """BSDF times cosine (r, g, b) and density."""
    if paint.layer == -2.0:
        return np.array(layered.frosted(table, paint, *UP, *o, *i))
    base = surface.evaluate(paint, 0.0, *UP, *o, *i)
    return np.array(layered.over(table, paint, base, *UP, *o, *i))


def over_sphere(f, lowest: float = 0.0) -> np.ndarray:
    """Integral of a function of a direction over the sphere's part above a cosine."""
    x, w = np.polynomial.legendre.leggauss(96)
    # Squeezed towards the poles, where smooth lobes are sharp.
    c = lowest + (1 - lowest) * (x + 1) / 2
    turns = (np.arange(72) + 0.5) * 5.0
    return sum(
        (1 - lowest) / 2 * wc * math.radians(5.0) * f(direction(float(cc), float(t)))
        for cc, wc in zip(c, w, strict=True) for t in turns
    )  # fmt: skip


@pytest.mark.parametrize("name", LAYERED)
@pytest.mark.parametrize("cosine", [0.95, 0.5, 0.2])
def test_layers_give_no_more_than_they_get(name, cosine):
    """All that is reflected of light from one side, a mirror's part included, is at most the light."""
    table = material_table((LAYERED[name],))
    paint, o = paint_of(table, cosine), direction(cosine)
    whole = over_sphere(lambda i: value(table, paint, o, i))
    mirror = np.zeros(3)
    if paint.clear > 0 and layered.clear_alpha(table, 0) == 0:
        mirror = paint.clear * np.array(layered.mirror_weight(table, paint, True, cosine))
    assert (whole[:3] + mirror <= 1.01).all()
    assert (whole[:3] + mirror > 0.05).all()


@pytest.mark.parametrize("name", ["cloth", "varnish", "brass"])
def test_layers_are_reciprocal(name):
    """f(o, i) = f(i, o): what is returned is the BSDF times the cosine of light."""
    table = material_table((LAYERED[name],))
    for a, b, turn in ((0.9, 0.4, 30.0), (0.3, 0.7, 170.0), (0.15, 0.8, 75.0)):
        o, i = direction(a), direction(b, turn)
        there = value(table, paint_of(table, a), o, i)[:3] / b
        back = value(table, paint_of(table, b), i, o)[:3] / a
        # What rough metal loses between facets is given back by the viewer's side alone: to a tenth.
        assert there == pytest.approx(back, rel=0.1 if name == "brass" else 0.02)


@pytest.mark.parametrize("material", [VARNISH, BRASS, CLOTH], ids=lambda m: m.name)
@pytest.mark.parametrize("cosine", [0.9, 0.45])
def test_densities_integrate_to_one(material, cosine):
    """Less what is drawn below the surface, which is lost: at a slant, on rough lobes, some percent."""
    table = material_table((material,))
    paint, o = paint_of(table, cosine), direction(cosine)
    assert over_sphere(lambda i: value(table, paint, o, i))[3] == pytest.approx(1, abs=0.07)


@pytest.mark.parametrize("cosine", [1.0, 0.7, 0.4])
def test_a_frosted_pane_passes_and_reflects_what_a_clear_one_does(cosine):
    """R = 2 F / (1 + F) and its rest times the tint, spread by the lobe: mean over the facets seen, so to a few percent."""
    table = material_table((FROSTED,))
    paint, o = paint_of(table, cosine, frosted=True), direction(cosine)
    back = over_sphere(lambda i: value(table, paint, o, i))
    through = over_sphere(lambda i: value(table, paint, o, (i[0], i[1], -i[2])))
    reflected, _ = surface.pane(cosine, 1.5)
    assert back[0] == pytest.approx(reflected, abs=0.06)
    assert back[0] + through[0] / 0.9 == pytest.approx(1, abs=0.06)
    assert through[:3] / through[2] == pytest.approx([0.9, 0.95, 1.0], rel=1e-4)
    assert back[3] + through[3] == pytest.approx(1, abs=0.06)


def test_the_sheen_table_is_the_integral_of_its_lobe():
    """Charlie's distribution D = (2 + 1/a) sin^(1/a) / 2 pi and V = 1 / (4 (l + v - l v)), by quadrature."""
    for roughness, cosine in ((0.3, 0.8), (0.6, 0.5), (1.0, 0.2)):
        alpha, o = roughness**2, np.array(direction(cosine))

        def lobe(i, alpha=alpha, o=o):
            h = np.array(i) + o
            h /= np.linalg.norm(h)
            d = (2 + 1 / alpha) * math.sqrt(max(1 - h[2] ** 2, 0)) ** (1 / alpha) / (2 * math.pi)
            return np.array([d / (4 * (i[2] + o[2] - i[2] * o[2])) * i[2]])

        expected = min(over_sphere(lobe)[0], 1.0)
        assert layered.sheen_albedo(roughness, cosine) == pytest.approx(expected, abs=0.03)


@pytest.mark.parametrize("cosine", [1.0, 0.6, 0.2])
def test_a_perfect_coat_reflects_by_fresnel_over_its_chance(cosine):
    table = material_table((LACQUER,))
    paint = paint_of(table, cosine)
    got = layered.mirror_weight(table, paint, True, cosine)
    assert got[0] * paint.clear == pytest.approx(0.6 * surface.dielectric(cosine, layered.COAT_INDEX), rel=1e-6)


def test_lobes_are_drawn_by_their_shares():
    class Scene:  # what `draw` reads of a scene
        materials = material_table((LACQUER,))

    paint = paint_of(Scene.materials, 0.5)
    vertex = Vertex(0, 0, 0, *UP, *UP, *direction(0.5), 0.0)
    rng = np.random.default_rng(2)
    drawn = [draw.py_func(Scene, vertex, paint, *u) for u in rng.random((2000, 3))]
    coats = [d for d in drawn if d[3] == BY_CLEAR_COAT]
    assert len(coats) / len(drawn) == pytest.approx(paint.clear, abs=0.03)
    x, y, z = direction(0.5)
    assert all(d[:3] == pytest.approx((-x, -y, z)) for d in coats)
    assert not [d for d in drawn if d[3] in (BY_GLOSS, GLOSSY)]  # the base is matt
