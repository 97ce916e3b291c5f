"""A glTF document as a stage: its scene walked from the roots, with meshes, materials and openings."""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np
import pygltflib
from numpy.typing import NDArray
from pydantic import ValidationError

from valleylight.core.errors import InputError
from valleylight.core.project.description import Opening
from valleylight.core.stage.extent import together_of
from valleylight.core.stage.gltf.buffers import Buffers
from valleylight.core.stage.gltf.geometry import local_matrix, rotation_matrices
from valleylight.core.stage.gltf.materials import Materials
from valleylight.core.stage.gltf.offered import Offered
from valleylight.core.stage.gltf.pictures import Pictures
from valleylight.core.stage.gltf.primitives import Primitives
from valleylight.core.stage.gltf.values import REMEDY, Notes, check_extensions, chunks_of, item_at
from valleylight.core.stage.model import Mesh, MeshInstance, StageData

Y_UP_TO_Z_UP = np.array([[1, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 0], [0, 0, 0, 1]], float)
#: No part of a model stands farther from its origin.
FARTHEST_M = 1e7
LONGEST_LAYER, LONGEST_NAME = 200, 200


def read_glb(data: bytes, file: str = "model", metres: float | None = None) -> StageData:
    """Read a GLB, whose unit is so many `metres` (else what it says itself of how it arrived, else 1). What is read stays in that unit.

    Raises InputError that names the file and the part of it that is at fault."""
    if data[:4] != b"glTF":
        kind = "a picture" if data[:8] in (b"\x89PNG\r\n\x1a\n",) or data[:3] == b"\xff\xd8\xff" else "not a GLB model"
        raise InputError(f"the content is {kind}", file, REMEDY)
    if len(data) < 20:
        raise InputError("the file is cut off after its first bytes", file, REMEDY)
    version, length = struct.unpack_from("<II", data, 4)
    if version != 2:
        raise InputError(f"glTF version {version} is not supported", file, "Export as glTF 2.0")
    if length > len(data):
        raise InputError(f"the file is cut off: {len(data)} of {length} bytes are there", file, "Copy it again")
    try:
        raw, blob = chunks_of(data, file)
        check_extensions(raw, file)
        nodes = raw.pop("nodes", [])
        # The library takes more than a millisecond for each node; they are plain enough to be read as they stand.
        document = pygltflib.GLTF2.from_json(json.dumps(raw))
        return _Reader(document, nodes, blob, file, metres).stage()
    except InputError:
        raise
    except RecursionError as error:
        raise InputError("the model is nested too deeply", file, REMEDY) from error
    except (ValueError, KeyError, IndexError, TypeError, AttributeError, OverflowError, struct.error) as error:
        raise InputError(f"the model is damaged ({type(error).__name__}: {error})", file, REMEDY) from error


class _Reader:
    def __init__(
        self,
        document: pygltflib.GLTF2 | None,
        nodes: list[dict[str, Any]],
        blob: bytes,
        file: str,
        metres: float | None,
    ) -> None:
        if document is None:
            raise InputError("the model cannot be parsed", file, REMEDY)
        self._doc, self._nodes, self._file, self._notes = document, nodes, file, Notes()
        self._metres = metres or _unit_said(document)
        self._buffers = Buffers(document, blob)
        self._pictures = Pictures(document, self._buffers, file, self._notes)
        self._offered = Offered(document, file, self._notes)

    def stage(self) -> StageData:
        materials, layings = Materials(self._doc, self._pictures, self._file, self._notes).all()
        shapes = Primitives(self._doc, self._buffers, self._pictures, materials, layings, self._file, self._notes)
        meshes = [shapes.mesh(m, f"mesh {k}") for k, m in enumerate(self._doc.meshes)]
        self._tell_what_was_said()
        self._tell_what_is_left()
        hung, openings = self._walked(meshes)
        instances = self._placed(hung, meshes)
        if not instances:
            raise InputError("the model holds no triangles", self._file, "Export the model with its meshes")
        return StageData(
            tuple(meshes), tuple(instances), tuple(shapes.materials), tuple(self._pictures.textures), tuple(openings),
            tuple(self._notes.texts), self._offered.all(),
        )  # fmt: skip

    def _tell_what_was_said(self) -> None:
        """Words that the file carries of how it arrived, see arrival/pack.py."""
        extras = self._doc.asset.extras if self._doc.asset else None
        words = extras.get("arrival") if isinstance(extras, dict) else None
        for text in words if isinstance(words, list) else ():
            if isinstance(text, str):
                self._notes.add(text[:300])

    def _tell_what_is_left(self) -> None:
        """A word for all that a document may hold and a stage does not take."""
        for count, what in (
            (len(self._doc.animations), "animations"),
            (max(len(self._doc.scenes) - 1, 0), "further scenes"),
        ):
            if count:
                self._notes.add(
                    f"The file also holds {count} {what if count > 1 else what.removesuffix('s')}, which were left out."
                )

    def _walked(self, meshes: list[Mesh]) -> tuple[list[tuple[int, str, str, NDArray[np.float64]]], list[Opening]]:
        """Meshes as nodes hang them up (number, layer, name, matrix), and openings. Raises InputError for loops."""
        hung: list[tuple[int, str, str, NDArray[np.float64]]] = []
        openings: list[Opening] = []
        scene = self._doc.scenes[self._doc.scene or 0]
        pending: list[tuple[int, NDArray[np.float64], str]] = [
            (n, Y_UP_TO_Z_UP, "") for n in reversed(scene.nodes or [])
        ]
        met: set[int] = set()
        while pending:
            index, parent, layer = pending.pop()
            if index in met or not 0 <= index < len(self._nodes):
                lost = f"there is no node {index}"
                raise InputError(
                    f"node {index} is hung up twice, or in a loop" if index in met else lost, self._file, REMEDY
                )
            met.add(index)
            node = self._nodes[index]
            matrix = parent @ local_matrix(node)
            extras = node.get("extras")
            extras = extras if isinstance(extras, dict) else {}
            layer = str(extras.get("layer", layer)).strip()[:LONGEST_LAYER]
            if "opening" in extras:
                try:
                    openings.append(Opening.model_validate(extras["opening"]))
                except ValidationError:
                    self._notes.add(f"The opening of node {index} was left out: it is not complete.")
            self._offered.meet(node, index, matrix)
            number = node.get("mesh")
            if number is not None and len(meshes[item_at(meshes, number, f"{self._file}, node {index}")].triangles):
                name = str(node.get("name") or "").strip()[:LONGEST_NAME] or f"object {index}"
                hung += [(number, layer, name, m) for m in self._instances(node, matrix, name)]
            pending += [(child, matrix, layer) for child in reversed(node.get("children") or [])]
        return hung, openings

    def _placed(self, hung: list[tuple[int, str, str, NDArray[np.float64]]], meshes: list[Mesh]) -> list[MeshInstance]:
        """Meshes (number, layer, name, matrix) in their places, but for those that have no size there. Raises InputError for
        places beyond all reach."""
        if not hung:
            return []
        matrices = np.array([m for *_, m in hung])
        linear = matrices[:, :3, :3]
        far = np.array([np.abs(mesh.points).max() if len(mesh.points) else 0.0 for mesh in meshes])
        reach = np.abs(linear).sum((1, 2)) * far[[number for number, *_ in hung]] + np.abs(matrices[:, :3, 3]).max(1)
        beyond = np.flatnonzero(~(reach * self._metres < FARTHEST_M))  # NaN is not either
        if len(beyond):
            raise InputError(
                f"object {hung[beyond[0]][2]!r} stands or reaches farther than {FARTHEST_M / 1000:g} km", self._file,
                "Export the model in metres, near its origin",
            )  # fmt: skip
        flat = np.abs(np.linalg.det(linear)) <= 1e-12 * np.maximum(np.abs(linear).max((1, 2)), 1e-30) ** 3
        for k in np.flatnonzero(flat):
            self._notes.add(f"Object {hung[k][2]!r} is scaled to nothing in one direction and was left out.")
        instances = [
            MeshInstance(number, m, layer, name)
            for (number, layer, name, m), without in zip(hung, flat, strict=True) if not without
        ]  # fmt: skip
        together, strays = together_of(instances, meshes, self._file, self._metres)
        for text in strays:
            self._notes.add(text)
        return together

    def _instances(self, node: dict[str, Any], matrix: NDArray[np.float64], name: str) -> NDArray[np.float64]:
        """World matrices (N, 4, 4) of a node: one, or those of EXT_mesh_gpu_instancing."""
        attributes = (node.get("extensions") or {}).get("EXT_mesh_gpu_instancing", {}).get("attributes", {})
        if not attributes:
            return matrix[None]
        place = f"{self._file}, node {name!r}"
        parts = {key: self._buffers.accessor(index, place).astype(float) for key, index in attributes.items()}
        count = max(len(values) for values in parts.values())
        local = np.tile(np.eye(4), (count, 1, 1))
        if "ROTATION" in parts:
            local[:, :3, :3] = rotation_matrices(parts["ROTATION"])
        if "SCALE" in parts:
            local[:, :3, :3] *= parts["SCALE"][:, None, :]
        if "TRANSLATION" in parts:
            local[:, :3, 3] = parts["TRANSLATION"]
        return np.asarray(matrix @ local)


def _unit_said(document: pygltflib.GLTF2) -> float:
    """Metres of the unit that the file was found to have as it arrived, see arrival/pack.py."""
    extras = document.asset.extras if document.asset else None
    told = extras.get("unit_m") if isinstance(extras, dict) else None
    if isinstance(told, bool) or not isinstance(told, int | float) or not 1e-6 <= told <= 1e6:
        return 1.0
    return float(told)
