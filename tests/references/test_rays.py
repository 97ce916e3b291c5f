"""Rays over trimesh's shapes against T. Moeller, B. Trumbore, Fast, Minimum Storage Ray/Triangle Intersection, 1997, in double
precision: what they meet, how far off, through instances and masks; refraction against Snell's law in vectors."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.embree import Instance, RayScene
from valleylight.core.trace.photonmap import photons

SEEN, OTHER = rays.BY_LENS, rays.BY_MIRROR
RNG = np.random.default_rng(8)


def shapes() -> list[trimesh.Trimesh]:
    ball = trimesh.creation.icosphere(subdivisions=2, radius=1.3)
    ball.apply_translation((4, 0, 1))
    box = trimesh.creation.box(extents=(2, 1, 3))
    box.apply_transform(trimesh.transformations.rotation_matrix(0.7, (0.2, 1, 0.4), (0, 0, 0)))
    ring = trimesh.creation.annulus(0.5, 1.0, 2.0)
    ring.apply_translation((-3, 2, 0))
    return [ball, box, ring]


def soup(mesh: trimesh.Trimesh) -> tuple[np.ndarray, np.ndarray]:
    return np.asarray(mesh.vertices, np.float32), np.asarray(mesh.faces, np.uint32)


def aimed(count: int) -> tuple[np.ndarray, np.ndarray]:
    """Rays from a sphere about the shapes towards places among them."""
    origin = RNG.normal(size=(count, 3))
    origin *= 9 / np.linalg.norm(origin, axis=1, keepdims=True)
    towards = RNG.uniform((-4, -2, -2), (5, 3, 2), (count, 3)) - origin
    return origin, towards / np.linalg.norm(towards, axis=1, keepdims=True)


def met(scene: RayScene, origin: np.ndarray, towards: np.ndarray, far: float = 1e30, mask: int = SEEN) -> float:
    """Distance of what a ray meets; inf for nothing."""
    ray = rays.new_ray()
    found = rays.closest(scene.handle, ray, ray.view(np.uint32), *origin.tolist(), *towards.tolist(), far, mask)
    return float(ray[rays.FAR]) if found else np.inf


def nearest(meshes: list[trimesh.Trimesh], origin: np.ndarray, towards: np.ndarray) -> np.ndarray:
    """Distance of the first triangle that each ray meets; inf for none."""
    corners = trimesh.util.concatenate(meshes).triangles
    along, across = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    found = np.full(len(origin), np.inf)
    for k, (o, d) in enumerate(zip(origin, towards, strict=True)):
        p = np.cross(d, across)
        scale = (along * p).sum(1)
        with np.errstate(divide="ignore", invalid="ignore"):
            s = o - corners[:, 0]
            u = (s * p).sum(1) / scale
            q = np.cross(s, along)
            v = (q @ d) / scale
            t = (across * q).sum(1) / scale
        hit = (u >= 0) & (v >= 0) & (u + v <= 1) & (t > 0)
        found[k] = t[hit].min() if hit.any() else np.inf
    return found


@pytest.fixture(scope="module")
def world() -> RayScene:
    scene = RayScene()
    for mesh in shapes():
        scene.add_triangles(*soup(mesh), SEEN)
    return scene.commit()


def test_rays_meet_the_nearest_triangle(world):
    origin, towards = aimed(600)
    expected = nearest(shapes(), origin, towards)
    found = np.array([met(world, o, d) for o, d in zip(origin, towards, strict=True)])
    # A ray along an edge may fall to either side.
    agree = np.isclose(found, expected, rtol=1e-4, atol=1e-4) | (np.isinf(found) & np.isinf(expected))
    assert agree.mean() > 0.995
    assert 0.3 < np.isfinite(expected).mean() < 0.95


def test_a_segment_is_blocked_exactly_when_something_lies_on_it(world):
    origin, towards = aimed(200)
    expected = nearest(shapes(), origin, towards)
    for o, d, far in zip(origin, towards, expected, strict=True):
        if not np.isfinite(far):
            continue
        ray = rays.new_ray()
        shadow = lambda length, mask, o=o, d=d, ray=ray: rays.blocked(  # noqa: E731
            world.handle, ray, ray.view(np.uint32), *o.tolist(), *d.tolist(), float(length), mask
        )
        assert shadow(far + 1e-3, SEEN) and not shadow(far - 1e-3, SEEN)
        assert not shadow(far + 1.0, OTHER)


def test_masks_choose_what_is_met():
    ball, box, ring = shapes()
    scene = RayScene()
    scene.add_triangles(*soup(ball), SEEN)
    scene.add_triangles(*soup(box), OTHER)
    scene.add_triangles(*soup(ring), SEEN | OTHER)
    scene.commit()
    origin, towards = aimed(200)
    for mask, meshes in ((SEEN, [ball, ring]), (OTHER, [box, ring]), (SEEN | OTHER, [ball, box, ring])):
        expected = nearest(meshes, origin, towards)
        found = np.array([met(scene, o, d, mask=mask) for o, d in zip(origin, towards, strict=True)])
        agree = np.isclose(found, expected, rtol=1e-4, atol=1e-4) | (np.isinf(found) & np.isinf(expected))
        assert agree.mean() > 0.99


@pytest.mark.parametrize("scale", [(1, 1, 1), (2, 2, 2), (0.5, 3, 1), (1, 1, -1)])
def test_instances_stand_under_their_matrices(scale):
    """Turned, stretched and mirrored ones too."""
    ball, _, ring = shapes()
    part = RayScene()
    part.add_triangles(*soup(ring), rays.EVERYTHING)
    part.commit()
    matrix = trimesh.transformations.concatenate_matrices(
        trimesh.transformations.translation_matrix((1.5, -2, 0.5)),
        trimesh.transformations.rotation_matrix(1.1, (1, 1, 0)), np.diag((*scale, 1.0)),
    )  # fmt: skip
    scene = RayScene()
    scene.add_triangles(*soup(ball), SEEN)
    scene.add_instance(Instance(part, matrix, SEEN))
    scene.commit()
    placed = ring.copy()
    placed.apply_transform(matrix)
    origin, towards = aimed(300)
    expected = nearest([ball, placed], origin, towards)
    found = np.array([met(scene, o, d) for o, d in zip(origin, towards, strict=True)])
    agree = np.isclose(found, expected, rtol=2e-4, atol=2e-4) | (np.isinf(found) & np.isinf(expected))
    assert agree.mean() > 0.99


def test_an_instance_outlives_the_scene_it_was_made_of():
    """Structures are freed with their objects: what is placed keeps what it stands for alive."""
    part = RayScene()
    part.add_triangles(*soup(trimesh.creation.box()), rays.EVERYTHING)
    scene = RayScene()
    scene.add_instance(Instance(part.commit(), np.eye(4), SEEN))
    scene.commit()
    del part
    assert met(scene, np.array([0.0, 0.0, 5.0]), np.array([0.0, 0.0, -1.0])) == pytest.approx(4.5)


@pytest.mark.parametrize(("inside", "beyond"), [(1.0, 1.5), (1.5, 1.0), (1.0, 1.333), (2.4, 1.0)])
def test_refraction_follows_snell(inside, beyond):
    """n1 sin a1 = n2 sin a2, within the plane of incidence; past the critical angle nothing passes."""
    normal = np.array([0.6, 0.0, 0.8])
    side = np.array([0.8, 0.0, -0.6])
    for angle in np.radians([0.0, 12.0, 33.0, 41.0, 60.0, 84.0]):
        towards = np.sin(angle) * side - np.cos(angle) * normal
        bent = np.array(photons.bend(*towards, *normal, inside / beyond))
        sine = inside / beyond * np.sin(angle)
        if sine >= 1.0:
            assert not bent.any()
            continue
        assert np.linalg.norm(bent) == pytest.approx(1)
        assert bent @ side == pytest.approx(sine, abs=1e-12)
        assert bent @ normal == pytest.approx(-np.sqrt(1 - sine * sine))
        assert bent @ np.cross(normal, side) == pytest.approx(0, abs=1e-12)
