"""IFC and USD, compared with what the libraries of these standards read themselves."""

from __future__ import annotations

import io
import zipfile

import ifcopenshell
import ifcopenshell.geom
import numpy as np
import pytest
import trimesh
from pxr import Gf, Sdf, Usd, UsdGeom, UsdLux, UsdShade

from tests.core.test_arrival import extent, folder, volume
from valleylight.core.errors import InputError
from valleylight.core.project.build import build
from valleylight.core.project.description import Occasion, View
from valleylight.core.stage.arrival import arrive, sheet_of
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.demo.orchard_house import STOREY, WINDOWS, make_ifc


@pytest.fixture(scope="module")
def house() -> bytes:
    return make_ifc()


def test_a_house_has_the_areas_that_its_library_reads(house):
    """Every element's area and box against ifcopenshell's own triangles in world coordinates."""
    settings = ifcopenshell.geom.settings()
    settings.set("use-world-coords", True)
    file = ifcopenshell.file.from_string(house.decode())
    iterator = ifcopenshell.geom.iterator(settings, file, 1)
    expected = {}
    assert iterator.initialize()
    while True:
        shape = iterator.get()
        mesh = trimesh.Trimesh(
            np.reshape(shape.geometry.verts, (-1, 3)), np.reshape(shape.geometry.faces, (-1, 3)), process=False
        )
        expected[shape.name] = (mesh.area, mesh.bounds)
        if not iterator.next():
            break
    stage = arrive(house, "house.ifc").stage
    assert {i.name for i in stage.instances} == set(expected)
    for i in stage.instances:
        mesh = stage.meshes[i.mesh]
        made = trimesh.Trimesh(
            mesh.points.astype(float) @ i.matrix[:3, :3].T + i.matrix[:3, 3], mesh.triangles, process=False
        )
        assert made.area == pytest.approx(expected[i.name][0], rel=1e-5), i.name
        assert made.bounds == pytest.approx(expected[i.name][1], abs=1e-4), i.name


def test_what_a_building_model_knows_is_offered(house):
    made = arrive(house, "house.ifc")
    sheet = sheet_of(made.stage, "house.ifc", made.metres)
    assert (sheet.unit.metres, sheet.unit.stated, sheet.up.up) == (1.0, True, "z")
    assert "Ground floor / Window" in sheet.layers and "Roof / Roof" in sheet.layers
    site = sheet.site
    assert site is not None and (site.latitude_deg, site.longitude_deg, site.elevation_m) == pytest.approx(
        (51.8, -2.4, 92.0)
    )
    # North at (0.25, 0.97) in the plan lies to the right of up, so up lies anticlockwise of north.
    assert site.north_deg == pytest.approx(-np.degrees(np.arctan2(0.25, 0.97)))
    assert [light.kind for light in sheet.lights] == ["place", "place"]
    assert sheet.lights[0].position == pytest.approx((2.4, 3.2, STOREY / 1000 - 0.35))
    glass = next(m for m in made.stage.materials if m.name == "Glass")
    assert glass.thin_glass and not any("solid in the file" in note for note in made.stage.notes)
    assert "brought to metres" in " ".join(made.stage.notes)
    assert len([i for i in made.stage.instances if i.name.startswith("Window")]) == len(WINDOWS)


#: Where a wall of the house lies across (its panes' middle), and which way its windows lead in.
WALLS = {
    "south": (lambda along: (along - 0.3, -0.155), (0, 1, 0)), "north": (lambda along: (along - 0.3, 6.545), (0, -1, 0)),
    "east": (lambda along: (9.745, along), (-1, 0, 0)), "west": (lambda along: (-0.155, along), (1, 0, 0)),
}  # fmt: skip


def test_windows_become_openings(house):
    """Each where the file has it, as large as its glass, leading into the house; told in the words of its arrival."""
    made = arrive(house, "house.ifc")
    assert f"{len(WINDOWS)} windows have panes and become openings for daylight." in made.stage.notes
    view = View(key="v", name="v", position=(3, 3, 1.5), target=(6, 3, 1.5))
    project = build(
        {"house": made.glb}, views=(view,), occasions=(Occasion(key="o", name="o", when="2026-06-21T12:00:00"),)
    )
    scene = Compiler().scene(project, view, project.description.occasions[0], 16, 9, 1, SKETCH)
    found = scene.arrays.openings.copy()
    found[:, :3] += scene.origin
    told = 0
    for name, wall, begin, sill, wide, high in WINDOWS:
        place, inward = WALLS[wall]
        x, y = place((begin + wide / 2) / 1000)
        gap = np.abs(found[:, :3] - [x, y, (sill + high / 2) / 1000])
        panes = found[
            (gap <= [wide / 2000 + 0.15, wide / 2000 + 0.15, 0.05]).all(1) & (found[:, 9:12] @ inward > 0.999)
        ]
        assert panes[:, :3].mean(0) == pytest.approx([x, y, (sill + high / 2) / 1000], abs=0.15), name
        # All but the frame: a bar of 60 mm round about, and a post, which may be bridged.
        assert 0.98 * (wide - 180) <= panes[:, 12].sum() * 1e6 / (high - 120) <= 1.02 * (wide - 120), name
        told += len(panes)
    assert told == len(found)


@pytest.mark.parametrize(("data", "words"), [
    (lambda d: d[: len(d) // 2], "cut off"), (lambda d: d.replace(b"IFC4", b"IFC9"), "cannot be read as IFC"),
    (lambda d: d.replace(b"IfcPolygonalFaceSet".upper(), b"IFCNOTHING"), "cannot be read|no shapes"),
    (lambda d: b"ISO-10303-21;\nEND-ISO-10303-21;\n", "cannot be read as IFC|no shapes"),
])  # fmt: skip
def test_damaged_building_models_are_refused_in_words(house, data, words):
    with pytest.raises(InputError, match=words) as caught:
        arrive(data(house), "house.ifc")
    assert "house.ifc" in str(caught.value)


def usd(tmp_path, up="Z", metres=0.01, suffix="usda", build=None) -> bytes:
    path = tmp_path / f"scene.{suffix}"
    stage = Usd.Stage.CreateNew(str(path))
    UsdGeom.SetStageUpAxis(stage, up)
    UsdGeom.SetStageMetersPerUnit(stage, metres)
    (build or simple)(stage)
    stage.GetRootLayer().Save()
    return path.read_bytes()


def simple(stage) -> None:
    """A cube of 300 in a scope, a lens, a globe of light, and thirty cones by instancing."""
    UsdGeom.Scope.Define(stage, "/Walls")
    cube = UsdGeom.Cube.Define(stage, "/Walls/block")
    cube.GetSizeAttr().Set(300.0)
    cube.AddTranslateOp().Set((0, 0, 150))
    lens = UsdGeom.Camera.Define(stage, "/lens")
    lens.AddTranslateOp().Set((0, -900, 160))
    lens.AddRotateXOp().Set(90.0)
    globe = UsdLux.SphereLight.Define(stage, "/globe")
    globe.GetIntensityAttr().Set(1000.0)
    globe.GetRadiusAttr().Set(10.0)
    globe.AddTranslateOp().Set((0, 0, 250))
    many = UsdGeom.PointInstancer.Define(stage, "/many")
    UsdGeom.Cone.Define(stage, "/many/cone").GetHeightAttr().Set(4.0)
    many.CreatePrototypesRel().AddTarget("/many/cone")
    many.GetProtoIndicesAttr().Set([0] * 30)
    many.GetPositionsAttr().Set([Gf.Vec3f(10.0 * k, 400, 0) for k in range(30)])


@pytest.mark.parametrize("suffix", ["usda", "usdc"])
def test_a_scene_with_its_lens_light_and_instances(tmp_path, suffix):
    made = arrive(usd(tmp_path, suffix=suffix), f"scene.{suffix}")
    sheet = sheet_of(made.stage, "scene", made.metres)
    assert made.metres == 0.01 and sheet.layers == ["Walls"]
    assert len(made.stage.instances) == 31
    assert volume(made.stage) == pytest.approx(300**3 + 30 * np.pi * 4 / 3, rel=1e-3)
    assert extent(made.stage)[2] == pytest.approx(302)
    (lens,) = sheet.cameras
    assert lens.position == (0, -900, 160) and lens.ahead == pytest.approx((0, 1, 0))
    # A globe of L cd/m2 and radius r shines pi r^2 L candela to every side (UsdLux: intensity in nits).
    assert sheet.lights[0].candela == pytest.approx(np.pi * 0.1**2 * 1000)


@pytest.mark.parametrize(("up", "rows"), [("Y", [0, 2, 1]), ("Z", [0, 1, 2])])
def test_meshes_as_usd_means_them(tmp_path, up, rows):
    """Faces of three, four and five corners, left-handed or not, with surfaces for some of them; areas by the shoelace formula."""
    corners = [(0, 0, 0), (4, 0, 0), (4, 3, 0), (0, 3, 0), (6, 0, 0), (7, 1.5, 0), (6, 3, 0)]

    def build(stage) -> None:
        mesh = UsdGeom.Mesh.Define(stage, "/floor")
        mesh.GetPointsAttr().Set([Gf.Vec3f(*c) for c in corners])
        mesh.GetFaceVertexCountsAttr().Set([4, 5])
        mesh.GetFaceVertexIndicesAttr().Set([0, 1, 2, 3, 1, 4, 5, 6, 2])
        oak = UsdShade.Material.Define(stage, "/Looks/oak")
        shader = UsdShade.Shader.Define(stage, "/Looks/oak/surface")
        shader.CreateIdAttr("UsdPreviewSurface")
        shader.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f).Set((0.4, 0.3, 0.2))
        shader.CreateInput("roughness", Sdf.ValueTypeNames.Float).Set(0.3)
        oak.CreateSurfaceOutput().ConnectToSource(shader.ConnectableAPI(), "surface")
        part = UsdShade.MaterialBindingAPI.Apply(mesh.GetPrim()).CreateMaterialBindSubset("wood", [1])
        UsdShade.MaterialBindingAPI.Apply(part.GetPrim()).Bind(oak)

    stage = arrive(usd(tmp_path, up, 1.0, build=build), "floor.usda").stage
    mesh = stage.meshes[0]
    made = trimesh.Trimesh(mesh.points, mesh.triangles, process=False)
    assert made.area == pytest.approx(12 + 7.5)
    numbers = {m.name: k for k, m in enumerate(stage.materials)}
    oak = stage.materials[numbers["oak"]]
    assert oak.base == pytest.approx((0.4, 0.3, 0.2)) and oak.roughness == pytest.approx(0.3)
    assert made.area_faces[mesh.material == numbers["oak"]].sum() == pytest.approx(7.5)
    assert extent(stage)[rows] == pytest.approx([7, 3, 0], abs=1e-6)
    facing = stage.instances[0].matrix[:3, :3] @ made.face_normals[0]
    assert facing == pytest.approx([0, -1, 0] if up == "Y" else [0, 0, 1], abs=1e-6)


def test_scenes_of_several_files_come_whole_and_look_at_nothing_else(tmp_path):
    root = tmp_path / "secret.usda"
    root.write_text('#usda 1.0\ndef Cube "c" {}\n')
    part = b'#usda 1.0\n(\n    defaultPrim = "c"\n)\ndef Cube "c" {}\n'
    for named, words in (
        ("./parts/p.usda", None),
        (str(root), "not among its files"),
        ("../secret.usda", "not among its files"),
        ("https://x.example/p.usda", "not among its files"),
    ):
        text = f'#usda 1.0\ndef "a" (\n    references = @{named}@\n)\n{{\n}}\n'.encode()
        data = folder({"scene/root.usda": text, "scene/parts/p.usda": part})
        if words is None:
            assert len(arrive(data, "scene.zip").stage.instances) == 1
        else:
            with pytest.raises(InputError, match=words):
                arrive(data, "scene.zip")
    package = io.BytesIO()
    with zipfile.ZipFile(package, "w") as archive:
        archive.writestr("root.usda", b'#usda 1.0\ndef "a" (\n    references = @p.usda@\n)\n{\n}\n')
        archive.writestr("p.usda", part)
    assert len(arrive(package.getvalue(), "scene.usdz").stage.instances) == 1


@pytest.mark.parametrize(
    "data",
    [
        b"#usda 1.0\ndef Cube {",
        b"PXR-USDC" + b"\0" * 80,
        b"#usda 1.0\n",
        b'#usda 1.0\n(\n    metersPerUnit = 0\n)\ndef Cube "c" {}\n',
    ],
)
def test_damaged_scenes_are_refused_in_words(data):
    with pytest.raises(InputError):
        arrive(data, "scene.usda")


def test_faces_past_the_points_are_refused(tmp_path):
    def build(stage) -> None:
        mesh = UsdGeom.Mesh.Define(stage, "/m")
        mesh.GetPointsAttr().Set([Gf.Vec3f(0, 0, 0), Gf.Vec3f(1, 0, 0), Gf.Vec3f(0, 1, 0)])
        mesh.GetFaceVertexCountsAttr().Set([3])
        mesh.GetFaceVertexIndicesAttr().Set([0, 1, 900])

    with pytest.raises(InputError, match="point past its points"):
        arrive(usd(tmp_path, build=build), "m.usda")
