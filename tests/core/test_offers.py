"""What files know beside their surfaces: cameras as views, lights as fixtures, the site; packed triangles."""

from __future__ import annotations

import DracoPy
import numpy as np
import pytest
import trimesh

from tests.core.test_gltf_features import Doc
from valleylight.core.errors import InputError
from valleylight.core.lamps.offered import as_fixture, cone_profile
from valleylight.core.photometry import read, write_lm63
from valleylight.core.photometry.measures import flux_lm
from valleylight.core.project.description import Placement
from valleylight.core.stage.arrival.lenses import as_view
from valleylight.core.stage.assembly import matrix_of
from valleylight.core.stage.offers import CameraOffer, LightOffer
from valleylight.core.trace.arrays.camera import camera_array, project_point


def with_nodes(*nodes: dict, **top) -> Doc:
    doc = Doc()
    doc.json["nodes"] += list(nodes)
    doc.json["scenes"][0]["nodes"] = list(range(len(doc.json["nodes"])))
    doc.json |= top
    return doc


def test_cameras_of_gltf_look_where_their_nodes_do():
    """A glTF camera looks along its own -Z with +Y up (glTF 2.0, section 3.10.2); the file's Y is our Z."""
    lenses = [
        {"type": "perspective", "name": "wide", "perspective": {"yfov": 0.9, "aspectRatio": 1.5, "znear": 0.1}},
        {"type": "orthographic", "orthographic": {"xmag": 1, "ymag": 1, "znear": 0.1, "zfar": 9}},
    ]
    stage = with_nodes(
        {"camera": 0, "translation": [1, 2, 3]}, {"camera": 0, "name": "turned", "rotation": [0, np.sin(np.pi / 4), 0, np.cos(np.pi / 4)]},
        {"camera": 1}, cameras=lenses,
    ).read()  # fmt: skip
    first, second = stage.offers.cameras
    assert first.name == "wide" and first.position == (1, -3, 2) and first.ahead == pytest.approx((0, 1, 0))
    assert second.name == "turned" and second.ahead == pytest.approx((-1, 0, 0))
    assert first.height_deg == pytest.approx(np.degrees(0.9)) and first.aspect == 1.5
    assert "no perspective" in " ".join(stage.notes)


@pytest.mark.parametrize("aspect", [16 / 9, 1.5, 0.75, 1.0, 2.39, None])
@pytest.mark.parametrize("height_deg", [8.0, 40.0, 75.0])
def test_a_view_has_the_angle_of_its_camera(aspect, height_deg):
    """A point half that angle above the axis falls on the upper edge of the tracer's own picture, and the one below on the lower."""
    view = as_view(CameraOffer("c", (0, 0, 1), (0, 1, 0), height_deg, aspect), "c", "C", None)
    record = camera_array(view, 8.0, view.aspect)
    for side, edge in ((1, 0.0), (-1, 1.0)):
        point = np.array([0.0, 10.0, 1.0 + side * 10.0 * np.tan(np.radians(height_deg / 2))])
        assert project_point(record, point) == pytest.approx((0.5, edge), abs=0.01)
    assert view.aspect == pytest.approx(aspect or 16 / 9, rel=0.02)


def test_a_view_goes_with_its_model():
    placement = Placement(key="m", name="m", asset="0" * 64, position=(10, 0, 2), turn_deg=90, scale=0.01)
    view = as_view(CameraOffer("c", (100, 0, 150), (0, 1, 0), 40.0), "c", "C", matrix_of(placement))
    assert view.position == pytest.approx((10, 1, 3.5)) and view.target == pytest.approx((5, 1, 3.5))


@pytest.mark.parametrize(("up", "axis"), [("y", 1), ("x", 0), ("-y", 1), ("-z", 2)])
def test_any_axis_is_set_upright(up, axis):
    matrix = matrix_of(Placement(key="m", name="m", asset="0" * 64, up=up))
    point = np.zeros(3)
    point[axis] = -1.0 if up[0] == "-" else 1.0
    assert matrix[:3, :3] @ point == pytest.approx([0, 0, 1])
    assert np.linalg.det(matrix[:3, :3]) == pytest.approx(1.0)  # nothing is mirrored


LIGHTS = {"KHR_lights_punctual": {"lights": [
    {"type": "spot", "intensity": 800.0, "color": [1, 0.5, 0.25], "spot": {"innerConeAngle": 0.2, "outerConeAngle": 0.6}},
    {"type": "point", "intensity": 100.0}, {"type": "directional", "intensity": 90000.0}, {"type": "point", "intensity": 0.0},
]}}  # fmt: skip


def test_lights_of_gltf_keep_their_candela_and_lumen():
    nodes = [
        {"name": f"lamp {k}", "translation": [0, 3, 0], "extensions": {"KHR_lights_punctual": {"light": k}}}
        for k in range(4)
    ]
    stage = with_nodes(*nodes, extensions=LIGHTS).read()
    spot, point, sun = stage.offers.lights
    assert (spot.candela, point.candela, sun.lux) == (800.0, 100.0, 90000.0)
    assert "lamp 3" in " ".join(stage.notes)
    made = as_fixture(spot, None)
    assert made is not None and made.rgb is not None and made.rgb[1:3] == "ff"
    kept = read(write_lm63(made.profile).encode())
    assert kept.peak_cd == pytest.approx(800.0, rel=1e-3)
    # Beyond the outer cone it is dark, within the inner one even (KHR_lights_punctual).
    assert kept.intensity(0.0, 0.6 * 180 / np.pi + 1) == pytest.approx(0.0, abs=1e-6)
    assert kept.intensity(0.0, 10.0) == pytest.approx(800.0, rel=1e-3)
    # A point of I candela gives 4 pi I lumen.
    assert flux_lm(cone_profile(point)) == pytest.approx(4 * np.pi * 100.0, rel=1e-3)
    assert as_fixture(sun, None) is None


@pytest.mark.parametrize(("inner", "outer"), [(0.0, 30.0), (20.0, 45.0), (89.0, 90.0)])
def test_flux_of_a_cone(inner, outer):
    """Phi = 2 pi I0 (1 - ci) + 2 pi I0 (ci - co) / 3 for I0 ((c - co) / (ci - co))^2 between the cones."""
    profile = cone_profile(LightOffer("l", "spot", (0, 0, 0), (0, 0, -1), 500.0, None, (1, 1, 1), inner, outer))
    ci, co = np.cos(np.radians([inner, outer]))
    assert flux_lm(profile) == pytest.approx(2 * np.pi * 500.0 * ((1 - ci) + (ci - co) / 3), rel=0.01)


@pytest.mark.parametrize("node", [
    {"camera": 9}, {"extensions": {"KHR_lights_punctual": {"light": 7}}}, {"extensions": {"KHR_lights_punctual": {}}},
])  # fmt: skip
def test_a_camera_or_light_that_is_not_there_is_refused(node):
    with pytest.raises(InputError, match="points at number"):
        with_nodes(node).read()


def draco(mesh: trimesh.Trimesh, **changes) -> Doc:
    """A document whose one primitive is packed by DracoPy."""
    packed = DracoPy.encode(
        mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32), preserve_order=True, quantization_bits=20
    )
    doc = Doc()
    view = doc.view(packed)
    accessors = doc.json["accessors"]
    accessors += [
        {"componentType": 5126, "count": len(mesh.vertices), "type": "VEC3"}, {"componentType": 5125, "count": mesh.faces.size, "type": "SCALAR"},
    ]  # fmt: skip
    doc.json["meshes"] = [{"primitives": [{
        "attributes": {"POSITION": len(accessors) - 2}, "indices": len(accessors) - 1,
        "extensions": {"KHR_draco_mesh_compression": {"bufferView": view, "attributes": {"POSITION": 0}} | changes},
    }]}]  # fmt: skip
    doc.json["extensionsRequired"] = ["KHR_draco_mesh_compression"]
    return doc


def test_packed_triangles_are_unpacked():
    """Area and volume of a torus, packed by the reference library's own encoder."""
    torus = trimesh.creation.torus(2.0, 0.5, 48, 24)
    mesh = draco(torus).read().meshes[0]
    made = trimesh.Trimesh(mesh.points, mesh.triangles)
    assert len(mesh.triangles) == len(torus.faces)
    assert made.area == pytest.approx(torus.area, rel=1e-4) and abs(made.volume) == pytest.approx(
        torus.volume, rel=1e-4
    )
    with pytest.raises(InputError, match="compressed POSITION is not there"):
        draco(torus, attributes={"POSITION": 44}).read()
