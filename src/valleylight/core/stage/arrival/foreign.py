"""Models in other open formats, read by trimesh (OBJ with MTL, PLY, STL) and pycollada (COLLADA), and written as glTF.

Sources: trimesh's readers and its glTF writer; COLLADA 1.4 and 1.5, element `asset` (unit, up_axis).
"""

from __future__ import annotations

import io
import re
from dataclasses import dataclass
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray
from trimesh.resolvers import Resolver
from trimesh.visual.material import PBRMaterial, SimpleMaterial

from valleylight.core.errors import InputError
from valleylight.core.stage.arrival.bundle import Bundle

#: Kinds that are read here, with the axis that is up where the file does not say.
UP_OF = {"obj": "y", "ply": "z", "stl": "z", "dae": "y"}
#: What trimesh reads of a model at most, for its memory is bounded.
MOST_BYTES = 1 << 30
_Z_TO_Y = np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]], float)
_X_TO_Y = np.array([[0, -1, 0, 0], [1, 0, 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]], float)


#: Corners farther from zero than this, in the file's unit, are given about their middle.
_FAR = 20_000.0
#: Encodings in which plain letters stand for themselves.
_PLAIN = (b"utf-8", b"us-ascii", b"ascii", b"iso-8859-1", b"iso-8859-15", b"windows-1252")


@dataclass(frozen=True)
class Foreign:
    """A model as glTF: its bytes, the metres of its unit where the file states them, its extent (3,) in its own unit, the
    second being its height, and words."""

    glb: bytes
    metres: float | None
    extent: NDArray[np.float64]
    words: list[str]


class _Only(Resolver):  # type: ignore[misc]
    """Gives a reader the files of a bundle and nothing else."""

    def __init__(self, bundle: Bundle, path: str) -> None:
        self._bundle, self._path = bundle, path

    def get(self, key: str) -> bytes:
        data = self._bundle.find(key, self._path)
        if data is None:
            raise FileNotFoundError(key)
        return data

    def write(self, name: str, data: Any) -> None:
        raise NotImplementedError

    def namespaced(self, namespace: str) -> _Only:
        return self

    def keys(self) -> list[str]:
        return list(self._bundle.files)


def read_foreign(data: bytes, kind: str, bundle: Bundle, path: str) -> Foreign:
    """A model of a kind of `UP_OF` as glTF. Raises InputError that names the file and what to do."""
    if len(data) > MOST_BYTES:
        raise InputError(
            f"it holds {len(data) / 2**20:.0f} MB of text", path, "Export the model as .glb, which is smaller"
        )
    up, metres = UP_OF[kind], None
    if kind == "dae":
        up, metres = _stated(data, path)
    scene = _loaded(data, kind, bundle, path)
    words: list[str] = []
    for name, geometry in list(scene.geometry.items()):
        if not isinstance(geometry, trimesh.Trimesh) or not len(geometry.faces):
            words.append(f"{name!r} is not made of triangles and was left out.")
            scene.delete_geometry(name)
            continue
        lost = _without_wrong_numbers(geometry)
        if lost:
            words.append(f"{lost} triangles of {name!r} have corners that are no numbers and were left out.")
        if not len(geometry.faces):
            scene.delete_geometry(name)
            continue
        words += _as_pbr(geometry)
    if not scene.geometry:
        raise InputError("the model holds no triangles", path, "Export the model with its meshes")
    words += [f"The file {named[:80]!r} it refers to is not there." for named in bundle.missing[:20]]
    if scene.bounds is None:  # what it holds is hung up nowhere
        raise InputError("nothing of the model stands in its scene", path, "Export the model with its scene")
    scene = _near_its_zero(scene)
    if up != "y":
        scene.apply_transform(_Z_TO_Y if up == "z" else _X_TO_Y)
    low, high = np.asarray(scene.bounds, float)
    return Foreign(bytes(scene.export(file_type="glb")), metres, high - low, words)


def _near_its_zero(scene: Any) -> Any:
    """The scene with shapes that lie far off given about their own middle: the numbers of a GLB have 24 binary digits."""
    if all(np.abs(g.vertices).max() < _FAR for g in scene.geometry.values()):
        return scene
    middles = {name: np.asarray(g.vertices).mean(0) for name, g in scene.geometry.items()}
    for name, geometry in scene.geometry.items():
        geometry.vertices = geometry.vertices - middles[name]
    near = trimesh.Scene()
    for node in scene.graph.nodes_geometry:
        world, name = scene.graph[node]
        moved = np.eye(4)
        moved[:3, 3] = middles[name]
        near.add_geometry(scene.geometry[name], node_name=node, geom_name=name, transform=np.asarray(world) @ moved)
    return near


def _loaded(data: bytes, kind: str, bundle: Bundle, path: str) -> Any:
    more: dict[str, Any] = {"split_objects": True} if kind == "obj" else {}
    try:
        return trimesh.load_scene(
            io.BytesIO(data), file_type=kind, resolver=_Only(bundle, path), process=False, **more
        )  # fmt: skip
    except MemoryError:
        raise
    except Exception as error:
        # Readers of many formats raise whatever they met; all of it means that the file is not as it should be.
        raise InputError(
            f"it cannot be read as {kind.upper()} ({type(error).__name__}: {str(error)[:120]})", path,
            "Export the model again, best as .glb",
        ) from None  # fmt: skip


def _stated(data: bytes, path: str) -> tuple[str, float | None]:
    """Axis that is up and metres of the unit, as a COLLADA file states them."""
    head = data[: 1 << 20]
    # In other encodings what is looked for here would not be found.
    encoding = re.match(rb"(?:\xef\xbb\xbf)?\s*<\?xml[^>]*?\bencoding\s*=\s*[\"']([^\"']*)", head)
    plain = encoding is None or encoding[1].lower() in _PLAIN
    if not plain or b"\0" in data or not data.removeprefix(b"\xef\xbb\xbf").lstrip().startswith(b"<"):
        raise InputError("its text is in another encoding than UTF-8", path, "Export the model again, as UTF-8")
    if b"<!DOCTYPE" in data or b"<!ENTITY" in data:
        raise InputError("it defines entities of its own", path, "Export the model again; COLLADA needs none")
    up = re.search(rb"<up_axis>\s*([XYZ])_UP\s*</up_axis>", head)
    unit = re.search(rb"<unit\b[^>]*\bmeter\s*=\s*[\"']([^\"']+)[\"']", head)
    metres = 1.0
    if unit is not None:
        try:
            metres = float(unit[1])
        except ValueError:
            metres = np.nan
        if not 1e-6 <= metres <= 1e6:
            raise InputError(
                f"its unit is {unit[1].decode(errors='replace')[:20]!r} metres", path, "Export the model in metres"
            )
    return (up[1].decode().lower() if up else "y"), metres


def _without_wrong_numbers(mesh: trimesh.Trimesh) -> int:
    """Take away triangles whose corners are no finite numbers, or that point past the corners; how many there were."""
    good = np.asarray(np.isfinite(mesh.vertices).all(1))
    faces = np.asarray(mesh.faces)
    within = np.asarray((faces >= 0).all(1) & (faces < len(good)).all(1))
    kept = np.zeros(len(faces), bool)
    kept[within] = good[faces[within]].all(1)
    if not kept.all():
        mesh.update_faces(kept)
    mesh.remove_unreferenced_vertices()
    return int((~kept).sum())


def _as_pbr(mesh: trimesh.Trimesh) -> list[str]:
    """Let a plain material be one that glTF knows, see-through where it says so. Returns what is to be told of it."""
    words = []
    visual: Any = mesh.visual
    material = getattr(visual, "material", None)
    if isinstance(material, SimpleMaterial):
        told = material.kwargs
        made = material.to_pbr()
        made.name = material.name
        # MTL: d is opacity, Tr its rest, Ke what the surface gives off.
        opacity = (_numbers(told.get("d")) or [1.0 - (_numbers(told.get("tr")) or [0.0])[0]])[0]
        colour = np.asarray(
            made.baseColorFactor if made.baseColorFactor is not None else [255, 255, 255, 255], float
        ).ravel()
        made.baseColorFactor = np.round([*colour[:3], np.clip(opacity, 0, 1) * 255]).astype(np.uint8)
        shines = _numbers(told.get("ke"))
        if len(shines) == 3 and max(shines) > 0:
            made.emissiveFactor = np.clip(shines, 0, 1)
            words.append(
                f"Material {material.name!r} shines in the file by a number without a unit; it was taken as at most 1 cd/m2. Set it among the surfaces."
            )
        visual.material = material = made
    if isinstance(material, PBRMaterial) and material.baseColorFactor is not None:
        factor = np.asarray(material.baseColorFactor, float).ravel()
        if len(factor) == 4 and factor[3] / 255.0 < 0.99:
            material.alphaMode = "BLEND"
    return words


def _numbers(value: Any) -> list[float]:
    """The finite numbers of a statement of a material file; none where one of them is none."""
    try:
        numbers = [float(v) for v in np.ravel(value)] if value is not None else []
    except (TypeError, ValueError):
        return []
    return numbers if np.isfinite(numbers).all() else []
