"""Materials: import, patterns, edges, waves, plausibility, sample pictures, and values offered for the air."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pygltflib as g
import pytest
from pydantic import ValidationError

from tests import small
from valleylight.core.making.shapes import box
from valleylight.core.preview.sample import sample_picture
from valleylight.core.project import Stage, View
from valleylight.core.project.air import Air, LightNet
from valleylight.core.project.surface import Courses, Laying, Surface
from valleylight.core.stage import Material, Texture
from valleylight.core.stage.catalogue import CATALOGUE
from valleylight.core.stage.gltf.buffers import Buffers
from valleylight.core.stage.gltf.materials import Materials
from valleylight.core.stage.gltf.pictures import Pictures
from valleylight.core.stage.gltf.values import Notes
from valleylight.core.stage.plausibility import findings
from valleylight.core.stage.samples import Presented, presented
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Light, Unit, Vertex
from valleylight.core.trace.bsdf import paint
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.edges import sharp_edges
from valleylight.core.trace.scene.materials import as_card, material_table
from valleylight.core.trace.scene.offers import offers
from valleylight.core.trace.scene.quality import TRUE
from valleylight.core.trace.scene.ripples import rippled, waves
from valleylight.core.trace.scene.triangles import records_of
from valleylight.core.trace.textures import pattern
from valleylight.validation import stages


def read_material(source: g.Material) -> Material:
    document, notes = g.GLTF2(), Notes()
    pictures = Pictures(document, Buffers(document, b""), "test", notes)
    return Materials(document, pictures, "test", notes).read(source, "here")


def test_layers_of_a_gltf_material():
    """Clear coat, sheen, volume and diffuse transmission of glTF 2.0's extensions arrive."""
    source = g.Material(
        name="m",
        pbrMetallicRoughness=g.PbrMetallicRoughness(baseColorFactor=[0.5, 0.4, 0.3, 1], roughnessFactor=0.6, metallicFactor=0),
        extensions={
            "KHR_materials_clearcoat": {"clearcoatFactor": 0.7, "clearcoatRoughnessFactor": 0.2},
            "KHR_materials_sheen": {"sheenColorFactor": [0.1, 0.2, 0.3], "sheenRoughnessFactor": 0.5},
            "KHR_materials_diffuse_transmission": {
                "diffuseTransmissionFactor": 0.4, "diffuseTransmissionColorFactor": [0.2, 0.6, 0.1],
            },
        },
    )  # fmt: skip
    made = read_material(source)
    assert (made.coat, made.coat_roughness, made.sheen_roughness) == (0.7, 0.2, 0.5)
    assert made.sheen == (0.1, 0.2, 0.3)
    assert (made.translucency, made.through_tint) == (0.4, (0.2, 0.6, 0.1))
    glass = g.Material(
        name="block", pbrMetallicRoughness=g.PbrMetallicRoughness(baseColorFactor=[1, 1, 1, 1], roughnessFactor=0),
        extensions={
            "KHR_materials_transmission": {"transmissionFactor": 1.0},
            "KHR_materials_volume": {"thicknessFactor": 0.1, "attenuationColor": [0.5, 0.8, 0.7], "attenuationDistance": 0.2},
        },
    )  # fmt: skip
    solid = read_material(glass)
    assert solid.solid_glass
    assert not solid.thin_glass
    row = material_table((solid,))[0]
    assert np.exp(-0.2 * row[layout.ABSORB : layout.ABSORB + 3]) == pytest.approx([0.5, 0.8, 0.7], rel=1e-5)


def test_a_surface_replaces_a_material_and_comes_back():
    before = Material(name="oak", base=(0.4, 0.3, 0.2), base_texture=3, roughness=0.5)
    kept = before.made_of(before.surface())
    assert kept == before
    bare = before.made_of(Surface(base=(0.1, 0.1, 0.1), keep_picture=False))
    assert (bare.name, bare.base_texture) == ("oak", -1)
    card = as_card((before, Material(name="pane", thin_glass=True)))
    assert card[0].base == (0.5, 0.5, 0.5)
    assert card[1].thin_glass


@pytest.mark.parametrize(
    "bad", [{"roughness": 1.2}, {"base": (0.5, 0.5, 1.5)}, {"conductor": "unobtainium"}, {"shine": 1}]
)
def test_impossible_surfaces_are_refused_by_field(bad):
    with pytest.raises(ValidationError, match=next(iter(bad))):
        Surface.model_validate(bad)


def test_an_empty_box_of_air_is_refused():
    with pytest.raises(ValidationError, match="empty"):
        Air(extent="box", low=(0, 0, 0), high=(1, 0, 1))
    with pytest.raises(ValidationError, match="empty"):
        LightNet(low=(0, 0, 0), high=(1, 1, 0))


def test_catalogue_is_plausible():
    keys = [e.key for e in CATALOGUE]
    assert len(set(keys)) == len(keys) >= 24
    meshes = [stages.quad(stages.FLOOR_CORNERS, k) for k in range(len(CATALOGUE))]
    materials = tuple(Material(name=e.name).made_of(e.surface) for e in CATALOGUE)
    project, compiler = stages.project_of(
        meshes, materials, View(key="v", name="v", position=(0, 0, 1), target=(0, 1, 1))
    )
    assert [f for f in findings(compiler.stage(project), materials) if f.kind != "too dark"] == []


def test_doubtful_materials_are_named():
    materials = (
        Material(name="chalk", base=(0.97, 0.97, 0.97)), Material(name="soot", base=(0.01, 0.01, 0.01)),
        Material(name="signal red", base=(0.9, 0.0, 0.0)), Material(name="default", base=(0.8, 0.8, 0.8)),
        Material(name="plaster", base=(0.7, 0.68, 0.66)), Material(name="window", thin_glass=True),
    )  # fmt: skip
    meshes = [stages.quad(stages.FLOOR_CORNERS, k) for k in range(len(materials))]
    project, compiler = stages.project_of(
        meshes, materials, View(key="v", name="v", position=(0, 0, 1), target=(0, 1, 1))
    )
    found = {f.material: f.kind for f in findings(compiler.stage(project), materials)}
    assert found == {"chalk": "too bright", "soot": "too dark", "signal red": "saturated", "default": "placeholder"}


def test_the_edges_of_a_box_stick_out_and_its_diagonals_do_not():
    shape = box([0, 0, 0], [1, 2, 3])
    mesh = stages.Mesh(
        shape.points.astype(np.float32), shape.normals.astype(np.float32), shape.uv.astype(np.float32),
        shape.triangles.astype(np.uint32), np.zeros(len(shape.triangles), np.int32),
    )  # fmt: skip
    record = records_of(mesh, np.eye(4))
    bits = sharp_edges(record)
    corner = np.stack([record[:, 0:3], record[:, 0:3] + record[:, 3:6], record[:, 0:3] + record[:, 6:9]], 1)
    for k, triangle in enumerate(corner):
        for opposite in range(3):
            a, b = triangle[(opposite + 1) % 3], triangle[(opposite + 2) % 3]
            along_axis = (np.abs(a - b) > 1e-6).sum() == 1
            assert bool(bits[k] >> opposite & 1) == along_axis
    inside_out = record.copy()  # a room seen from inside has no outer edges
    inside_out[:, 3:6], inside_out[:, 6:9] = record[:, 6:9], record[:, 3:6]
    assert sharp_edges(inside_out).max() == 0


def test_weathering_darkens_and_dulls_edges_and_lower_zones():
    project = small.project()
    view, occasion = project.description.views[0], project.description.occasions[0]
    arrays = Compiler().scene(project, view, occasion, 16, 9, 1, TRUE).arrays
    scene = arrays._replace(materials=material_table((Material(weathering=0.8),)))

    def at_place(x: float, z: float) -> Vertex:
        return Vertex(x, 0.37 * x, z, *(0.0, 1.0, 0.0) * 3, 0.0)

    def at(z: float, edge: float) -> tuple[float, float]:
        spots = [
            paint.detailed(
                scene,
                0,
                0,
                0.0,
                0.0,
                Unit(0, 0, 0.0, 0.0, 0.0, 0.0),
                Light(0.5, 0.5, 0.5),
                0.04,
                0.0,
                at_place(x, z),
                edge,
                0.0,
            )
            for x in np.linspace(0.1, 9.7, 60)
        ]
        return float(np.mean([s[0] for s in spots])), float(np.mean([s[3] for s in spots]))

    high, low, edge = at(4.0, 1e9), at(0.05, 1e9), at(4.0, 0.0)
    assert low[0] < 0.9 * high[0]
    assert edge[0] < 0.9 * high[0]
    assert edge[1] > high[1]


def test_waves_are_displaced_with_their_own_normals():
    """Height and slope agree with finite differences; twice the root mean square is half of the height asked for."""
    x, y = np.meshgrid(np.linspace(0, 40, 300), np.linspace(0, 40, 300))
    z, zx, zy = waves(x, y, 0.2, 1.5)
    assert 2 * np.sqrt((z**2).mean()) == pytest.approx(0.1, rel=0.15)
    h = 1e-5
    assert (waves(x + h, y, 0.2, 1.5)[0] - waves(x - h, y, 0.2, 1.5)[0]) / (2 * h) == pytest.approx(zx, abs=1e-5)
    assert (waves(x, y + h, 0.2, 1.5)[0] - waves(x, y - h, 0.2, 1.5)[0]) / (2 * h) == pytest.approx(zy, abs=1e-5)
    flat = records_of(stages.quad([(0, 0, 0), (6, 0, 0), (6, 4, 0), (0, 4, 0)], 0), np.eye(4))
    made = rippled(flat, 0.1, 1.0)
    assert len(made) > 1000
    area = np.linalg.norm(np.cross(made[:, 3:6], made[:, 6:9])[:, 2:], axis=1).sum() / 2
    assert area == pytest.approx(24.0, rel=1e-3)
    assert (made[:, 11] > 0.5).all()


@pytest.mark.parametrize("name", [n for n in pattern.NAMES if n != "none"])
def test_patterns_stay_between_their_two_colours(name):
    kind = pattern.NAMES.index(name)
    rng = np.random.default_rng(2)
    values = np.array([pattern.value(kind, *p, 0.0, 0.0, 1.0) for p in rng.uniform(-30, 30, (4000, 3))])
    assert values.min() >= 0
    assert values.max() <= 1
    assert values.std() > 0.02


def test_sample_pictures_tell_materials_apart():
    dark = sample_picture(Material(base=(0.05, 0.05, 0.05)), size=48)
    gold = sample_picture(Material(conductor="gold", metal=1.0, roughness=0.3), size=48)
    pane = sample_picture(Material(thin_glass=True, roughness=0.0), size=48)
    assert dark.shape == gold.shape == (48, 48, 3)
    middle = (slice(14, 34), slice(14, 34))
    assert gold[middle].mean() > dark[middle].mean() + 30
    assert gold[middle][..., 0].mean() > gold[middle][..., 2].mean() + 20
    assert pane[middle].std() > 3 * dark[middle].std()  # the line of text behind it


@pytest.mark.parametrize(
    ("surface", "form", "size_m"),
    [
        (Surface(), "tile", 0.3), (Surface(glass="solid"), "glass", 0.3), (Surface(sheen=(0.1, 0.1, 0.1)), "cloth", 0.3),
        (Surface(courses=Courses()), "tile", 1.0), (Surface(courses=Courses(length_m=1.8)), "tile", 3.0),
        (Surface(pattern="veins", pattern_m=0.35), "tile", 1.0), (Surface(pattern="weave", pattern_m=0.004), "tile", 0.3),
    ],
)  # fmt: skip
def test_samples_are_as_large_as_what_they_show(surface, form, size_m):
    assert presented(surface) == Presented(form, size_m)
    assert presented(Surface(), 2.4).size_m == 3.0
    assert presented(Surface(), 400.0).size_m == 3.0


def joints(pitch: float, size_m: float) -> np.ndarray:
    """Where joints across a sample of tiles begin, in pixels of its picture."""
    plain = Material(base=(0.8, 0.8, 0.8))
    courses = Courses(
        bond="stack",
        length_m=pitch - 0.008,
        height_m=10,
        joint_m=0.004,
        shade=0,
        uneven=0,
        joint_colour=(0, 0, 0),
        recess_m=0,
    )
    laid = replace(plain, courses=courses, laying=Laying(shift_m=(0, 5)))
    one, other = (sample_picture(m, (), Presented("tile", size_m), size=100).astype(float) for m in (laid, plain))
    dark = (one - other)[30:75].mean((0, 2)) < -12
    return np.flatnonzero(np.diff(dark.astype(int)) == 1)


def test_a_sample_is_at_true_scale():
    """Tiles of 10 cm lie a third of a sample of 30 cm apart, those of 5 cm a sixth."""
    wide, narrow = np.diff(joints(0.1, 0.3)).max(), np.diff(joints(0.05, 0.3)).max()
    assert wide == pytest.approx(2 * narrow, abs=4)
    # The tile fills about 84 of 100 pixels.
    assert 3 * wide == pytest.approx(84, abs=7)


def test_its_own_uv_is_at_true_scale_on_a_sample():
    checks = Texture(np.repeat(np.repeat(np.array([[[255] * 3, [0] * 3]], np.uint8), 8, 0), 8, 1))
    material = Material(base=(1, 1, 1), base_texture=0)
    edges = []
    for metres in (0.1, 0.05):
        laid = sample_picture(material, (checks,), Presented("tile", 0.3), uv_m=metres, size=100).astype(float)
        line = laid[50, 15:90].mean(-1)
        edges.append(np.count_nonzero(np.diff((line > line.mean()).astype(int))))
    assert edges[0] == pytest.approx(5, abs=1)
    assert edges[1] == pytest.approx(2 * edges[0], abs=2)


def test_a_sample_picture_is_the_same_whatever_other_pictures_the_stage_holds():
    """Only the pictures a material uses are laid out for it, under new numbers."""
    rng = np.random.default_rng(4)
    pictures = [Texture(rng.integers(0, 255, (64, 64, 3), dtype=np.uint8)) for _ in range(3)]
    many = (pictures[2], pictures[0], pictures[1], pictures[0])
    own = sample_picture(
        Material(base=(1, 1, 1), base_texture=0, relief_texture=1), (pictures[0], pictures[1]), size=48
    )
    same = sample_picture(Material(base=(1, 1, 1), base_texture=3, relief_texture=2), many, size=48)
    other = sample_picture(Material(base=(1, 1, 1), base_texture=0, relief_texture=2), many, size=48)
    assert np.array_equal(own, same)
    assert not np.array_equal(own, other)


def test_air_is_offered_from_the_scenes_size():
    project, compiler = small.project(), Compiler()
    stage = compiler.stage(project)
    made = offers(project.description.views[0], stage, *stage.bounds())
    assert [o.name for o in made] == ["haze", "mist", "fog", "ground mist", "valley mist"]
    paths = [o.air.free_path_m for o in made]
    assert paths[0] > paths[1] > paths[2] >= made[0].length_m
    assert all(o.air.on for o in made)
    lying, valley = made[3].air, made[4].air
    assert lying.fall_m is not None and valley.fall_m is not None
    assert lying.fall_m < valley.fall_m
    assert lying.base_height_m < valley.base_height_m
    assert Stage().light_net.on is False
