"""Scenes in OpenUSD (.usd, .usda, .usdc, .usdz), read by usd-core: meshes, plain solids, instances, surfaces, lenses and lights.

Source of the schemas: UsdGeom, UsdShade (UsdPreviewSurface), UsdLux.
"""

from __future__ import annotations

import io
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from pxr import Gf, Sdf, Usd, UsdGeom, UsdLux, UsdShade

from valleylight.core.errors import InputError
from valleylight.core.making.glb import Model, Offer, Surface, Thing, write_glb
from valleylight.core.making.shapes import Shape, of_triangles
from valleylight.core.stage.arrival.bundle import Bundle

_REMEDY = "Export the scene again as USD in one folder or .usdz, or as glTF"
#: So many instances and objects are taken of one file.
MOST_PLACES = 200_000
_Z_FROM_Y = np.array([[1, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 0], [0, 0, 0, 1]], float)


def read_usd(bundle: Bundle, path: str) -> tuple[bytes, float, list[str]]:
    """A scene as glTF, the metres of its unit, and words. Raises InputError that names the file and what is wrong."""
    with tempfile.TemporaryDirectory(prefix="valleylight-usd-") as folder:
        root = Path(folder)
        try:
            for name, data in bundle.files.items():
                (root / name).parent.mkdir(parents=True, exist_ok=True)
                (root / name).write_bytes(data)
            _check_references(bundle, root, path)
            stage = Usd.Stage.Open(str(root / path))
            if stage is None:
                raise InputError("it cannot be opened as USD", path, _REMEDY)
            return _Reader(stage, bundle, path).glb()
        except (InputError, MemoryError):
            raise
        except Exception as error:  # whatever the library met means that the file is not as it should be
            words = str(error).splitlines()[0][:120].replace(str(root), "") if str(error) else ""
            raise InputError(f"it cannot be read as USD ({type(error).__name__}: {words})", path, _REMEDY) from None


def _check_references(bundle: Bundle, root: Path, path: str) -> None:
    """Every layer that the scene is composed of must be among the files. Raises InputError that names the one that is not."""
    pending, met = [path], set[str]()
    while pending:
        name = pending.pop()
        if name in met:
            continue
        met.add(name)
        layer = Sdf.Layer.OpenAsAnonymous(str(root / name))
        if layer is None:
            raise InputError("it cannot be opened as USD", name, _REMEDY)
        for needed in layer.GetCompositionAssetDependencies():
            if not needed:
                continue
            beside = None if needed.startswith("/") or ":" in needed else _within(Path(name).parent / needed)
            if beside is None or beside not in bundle.files:
                raise InputError(
                    f"it refers to {needed[:80]!r}, which is not among its files",
                    name,
                    "Pack the scene with all its files in one zip",
                )
            pending.append(beside)


def _within(path: Path) -> str | None:
    parts: list[str] = []
    for part in path.parts:
        if part == "..":
            if not parts:
                return None
            parts.pop()
        elif part != ".":
            parts.append(part)
    return "/".join(parts)


class _Reader:
    def __init__(self, stage: Any, bundle: Bundle, path: str) -> None:
        self._stage, self._bundle, self._path = stage, bundle, path
        self._model, self._words = Model(), list[str]()
        self._things: dict[Any, int] = {}
        self._textures: dict[str, NDArray[np.uint8] | None] = {}
        self._cache = UsdGeom.XformCache()
        upright = UsdGeom.GetStageUpAxis(stage)
        self._turn = np.eye(4) if upright == UsdGeom.Tokens.z else _Z_FROM_Y

    def glb(self) -> tuple[bytes, float, list[str]]:
        metres = float(UsdGeom.GetStageMetersPerUnit(self._stage))
        if not 1e-6 <= metres <= 1e6:
            raise InputError(f"its unit is {metres:g} metres", self._path, "Export the scene in metres")
        walk = iter(Usd.PrimRange(self._stage.GetPseudoRoot(), Usd.TraverseInstanceProxies()))
        for prim in walk:
            imageable = UsdGeom.Imageable(prim)
            hidden = imageable and (
                imageable.ComputeVisibility() == UsdGeom.Tokens.invisible
                or imageable.ComputePurpose() not in (UsdGeom.Tokens.default_, UsdGeom.Tokens.render)
            )
            if hidden:
                walk.PruneChildren()
            elif prim.IsA(UsdGeom.PointInstancer):
                self._instances(UsdGeom.PointInstancer(prim))
                walk.PruneChildren()
            else:
                self._meet(prim)
        if not self._model.places:
            raise InputError("the scene holds no triangles", self._path, "Export the scene with its meshes")
        self._words += [f"The file {name[:80]!r} it refers to is not there." for name in self._bundle.missing[:20]]
        return write_glb(self._model), metres, self._words

    def _meet(self, prim: Any) -> None:
        matrix = self._turn @ _matrix(self._cache.GetLocalToWorldTransform(prim))
        if prim.IsA(UsdGeom.Camera):
            lens = UsdGeom.Camera(prim).GetCamera()
            across, high = lens.horizontalAperture, lens.verticalAperture
            wide = {"yfov": float(np.radians(lens.GetFieldOfView(Gf.Camera.FOVVertical))), "znear": 0.01}
            if high > 0:
                wide["aspectRatio"] = float(np.clip(across / high, 0.125, 8))
            self._model.offers.append(Offer(prim.GetName(), matrix, camera=wide))
        elif prim.HasAPI(UsdLux.LightAPI) or prim.IsA(UsdLux.DistantLight):
            self._light(prim, matrix)
        elif prim.IsA(UsdGeom.Gprim):
            number = self._thing(prim)
            if number is not None:
                self._put(number, matrix[None], _scope(prim))

    def _put(self, number: int, matrices: NDArray[np.float64], layer: str) -> None:
        if sum(len(m) for _, m, _ in self._model.places) + len(matrices) > MOST_PLACES:
            raise InputError(f"it holds more than {MOST_PLACES} objects", self._path, "Split the scene")
        self._model.places.append((number, matrices, layer))

    def _instances(self, instancer: Any) -> None:
        prim = instancer.GetPrim()
        at = self._turn @ _matrix(self._cache.GetLocalToWorldTransform(prim))
        places = instancer.ComputeInstanceTransformsAtTime(Usd.TimeCode.Default(), Usd.TimeCode.Default())
        which = np.asarray(instancer.GetProtoIndicesAttr().Get(), int)
        local = np.array([_matrix(m) for m in places]).reshape(-1, 4, 4)
        for k, target in enumerate(instancer.GetPrototypesRel().GetTargets()):
            prototype = self._stage.GetPrimAtPath(target)
            wanted = local[which[: len(local)] == k]
            if not prototype or not len(wanted):
                continue
            # The prototype's own matrix is part of the transforms; what hangs below it stands relative to it.
            base = np.linalg.inv(_matrix(self._cache.GetLocalToWorldTransform(prototype)))
            for below in Usd.PrimRange(prototype, Usd.TraverseInstanceProxies()):
                number = self._thing(below) if below.IsA(UsdGeom.Gprim) else None
                if number is not None:
                    own = base @ _matrix(self._cache.GetLocalToWorldTransform(below))
                    self._put(number, at @ wanted @ own, _scope(prim))

    def _thing(self, prim: Any) -> int | None:
        """Number of the thing made of a prim; None where it has no triangles."""
        key = prim.GetPrimInPrototype().GetPath() if prim.IsInstanceProxy() else prim.GetPath()
        if key in self._things:
            return self._things[key]
        name = prim.GetName()
        thing = Thing(name)
        if prim.IsA(UsdGeom.Mesh):
            self._mesh(UsdGeom.Mesh(prim), thing)
        else:
            solid = _solid(prim)
            if solid is None:
                self._words.append(f"{name!r} is not made of triangles and was left out.")
                return None
            thing.add(self._surface(prim), solid)
        if not thing.shapes:
            return None
        self._model.things.append(thing)
        self._things[key] = len(self._model.things) - 1
        return self._things[key]

    def _mesh(self, mesh: Any, thing: Thing) -> None:
        prim = mesh.GetPrim()
        points = np.asarray(mesh.GetPointsAttr().Get() or [], float).reshape(-1, 3)
        counts = np.asarray(mesh.GetFaceVertexCountsAttr().Get() or [], int)
        corners = np.asarray(mesh.GetFaceVertexIndicesAttr().Get() or [], int)
        where = f"{self._path}, {prim.GetPath()}"
        if not len(counts) or not len(points):
            return
        if (counts < 0).any() or counts.sum() != len(corners) or corners.min() < 0 or corners.max() >= len(points):
            raise InputError("its faces point past its points", where, _REMEDY)
        # Every face as a fan of triangles, told by corners of faces so that values of corners can follow.
        begins = np.repeat(np.cumsum(counts) - counts, np.maximum(counts - 2, 0))
        face = np.repeat(np.arange(len(counts)), np.maximum(counts - 2, 0))
        step = np.arange(len(face)) - np.repeat(
            np.cumsum(np.maximum(counts - 2, 0)) - np.maximum(counts - 2, 0), np.maximum(counts - 2, 0)
        )
        fan = np.column_stack([begins, begins + step + 1, begins + step + 2])
        if mesh.GetOrientationAttr().Get() == UsdGeom.Tokens.leftHanded:
            fan = fan[:, ::-1]
        good = np.isfinite(points[corners[fan]]).all((1, 2))
        if not good.all():
            self._words.append(
                f"{int((~good).sum())} triangles of {thing.name!r} have corners that are no numbers and were left out."
            )
            fan, face = fan[good], face[good]
        uv = self._uv(prim, corners, len(points))
        normals = _values_at(mesh.GetNormalsAttr().Get(), mesh.GetNormalsInterpolation(), corners, len(points))
        owners = self._owners(mesh, len(counts))
        for surface in sorted(set(owners)):
            mine = fan[np.array([owners[f] == surface for f in face])] if len(set(owners)) > 1 else fan
            if len(mine):
                shape = of_triangles(points[corners], mine, uv)
                if normals is not None:
                    given = normals[mine].reshape(-1, 3)
                    length = np.linalg.norm(given, axis=1, keepdims=True)
                    shape.normals = np.where(length > 1e-9, given / np.maximum(length, 1e-9), shape.normals)
                thing.add(surface, shape)

    def _owners(self, mesh: Any, faces: int) -> list[str]:
        """Name of the surface of each face."""
        whole = self._surface(mesh.GetPrim())
        owners = [whole] * faces
        for subset in UsdShade.MaterialBindingAPI(mesh.GetPrim()).GetMaterialBindSubsets():
            name = self._surface(subset.GetPrim())
            for f in np.asarray(subset.GetIndicesAttr().Get() or [], int):
                if 0 <= f < faces:
                    owners[f] = name
        return owners

    def _uv(self, prim: Any, corners: NDArray[np.int64], count: int) -> NDArray[np.float64] | None:
        api = UsdGeom.PrimvarsAPI(prim)
        for primvar in [api.GetPrimvar("st"), *api.GetPrimvarsWithValues()]:
            if primvar and str(primvar.GetTypeName()) in ("texCoord2f[]", "float2[]", "texCoord2d[]"):
                laid = _values_at(primvar.ComputeFlattened(), primvar.GetInterpolation(), corners, count)
                if laid is not None and laid.shape[1] == 2 and np.isfinite(laid).all():
                    return laid * [1.0, -1.0] + [0.0, 1.0]  # pictures of USD begin below
        return None

    def _surface(self, prim: Any) -> str:
        bound, _ = UsdShade.MaterialBindingAPI(prim).ComputeBoundMaterial()
        if bound:
            name = bound.GetPrim().GetName()
            if name not in self._model.surfaces:
                self._model.surface(self._preview(bound, name))
            return str(name)
        colours = UsdGeom.Gprim(prim).GetDisplayColorAttr().Get() if prim.IsA(UsdGeom.Gprim) else None
        base = (
            tuple(np.clip(np.asarray(colours, float).reshape(-1, 3).mean(0), 0, 1).tolist()) if colours else (0.8,) * 3
        )
        name = "Without a surface" if not colours else "Colour " + " ".join(f"{v:.2f}" for v in base)
        if name not in self._model.surfaces:
            self._model.surface(Surface(name, base))  # type: ignore[arg-type]
        return name

    def _preview(self, material: Any, name: str) -> Surface:
        source = material.ComputeSurfaceSource("")[0]
        surface = Surface(name, (0.8, 0.8, 0.8))
        if not source or source.GetIdAttr().Get() != "UsdPreviewSurface":
            self._words.append(f"Material {name!r} is of another kind than UsdPreviewSurface; it came in grey.")
            return surface

        def number(field: str, otherwise: float) -> float:
            value = source.GetInput(field).Get() if source.GetInput(field) else None
            return float(np.clip(value, 0, 3)) if isinstance(value, int | float) and np.isfinite(value) else otherwise

        def colour(field: str, otherwise: tuple[float, float, float]) -> tuple[float, float, float]:
            value = source.GetInput(field).Get() if source.GetInput(field) else None
            made = tuple(float(v) for v in value) if value is not None and len(value) == 3 else otherwise
            return made if np.isfinite(made).all() else otherwise  # type: ignore[return-value]

        surface.texture = self._picture(source, "diffuseColor", name)
        red, green, blue = colour("diffuseColor", (0.18, 0.18, 0.18))
        surface.base = (
            (1.0, 1.0, 1.0) if surface.texture is not None else tuple(np.clip((red, green, blue), 0, 1).tolist())
        )
        surface.roughness, surface.metal = min(number("roughness", 0.5), 1.0), min(number("metallic", 0.0), 1.0)
        surface.opacity, surface.index = min(number("opacity", 1.0), 1.0), max(number("ior", 1.5), 1.0)
        surface.emission_cd_m2 = tuple(max(v, 0.0) for v in colour("emissiveColor", (0.0, 0.0, 0.0)))  # type: ignore[assignment]
        return surface

    def _picture(self, source: Any, field: str, name: str) -> NDArray[np.uint8] | None:
        entry = source.GetInput(field)
        connected = entry.GetConnectedSources()[0] if entry else []
        if not connected:
            return None
        node = UsdShade.Shader(connected[0].source.GetPrim())
        file = node.GetInput("file").Get() if node and node.GetInput("file") else None
        if file is None or not file.path:
            return None
        if file.path not in self._textures:
            data = self._bundle.find(file.path, self._path)
            self._textures[file.path] = _decoded(data) if data is not None else None
            if data is not None and self._textures[file.path] is None:
                self._words.append(f"The picture {file.path[:80]!r} of material {name!r} cannot be read.")
        return self._textures[file.path]

    def _light(self, prim: Any, matrix: NDArray[np.float64]) -> None:
        """UsdLux gives luminance in nits times 2^exposure; over its area, seen along its axis, that is candela."""
        light = UsdLux.LightAPI(prim)
        level = float(light.GetIntensityAttr().Get() or 0) * 2.0 ** float(light.GetExposureAttr().Get() or 0)
        scale = float(UsdGeom.GetStageMetersPerUnit(self._stage))
        told: dict[str, Any] = {"color": [float(min(max(v, 0), 1)) for v in (light.GetColorAttr().Get() or (1, 1, 1))]}
        if prim.IsA(UsdLux.DistantLight):
            told |= {"type": "directional", "intensity": level}
        elif prim.IsA(UsdLux.RectLight):
            rect = UsdLux.RectLight(prim)
            area = float(rect.GetWidthAttr().Get() * rect.GetHeightAttr().Get()) * scale**2
            told |= {"type": "spot", "intensity": level * area, "spot": {"outerConeAngle": np.pi / 2}}
        elif prim.IsA(UsdLux.DiskLight):
            area = np.pi * (float(UsdLux.DiskLight(prim).GetRadiusAttr().Get()) * scale) ** 2
            told |= {"type": "spot", "intensity": level * area, "spot": {"outerConeAngle": np.pi / 2}}
        elif prim.IsA(UsdLux.SphereLight):
            area = np.pi * (float(UsdLux.SphereLight(prim).GetRadiusAttr().Get()) * scale) ** 2
            told |= {"type": "point", "intensity": level * area}
        else:
            self._words.append(
                f"Light {prim.GetName()!r} is a {prim.GetTypeName()}, which is not taken; set the sky instead."
            )
            return
        self._model.offers.append(Offer(prim.GetName(), matrix, light=told))


def _matrix(gf: Any) -> NDArray[np.float64]:
    """A matrix of USD, which is written for rows."""
    return np.array(gf, float).reshape(4, 4).T


def _scope(prim: Any) -> str:
    """Name of the nearest scope above, which becomes a layer."""
    above = prim.GetParent()
    while above and not above.IsPseudoRoot():
        if above.GetTypeName() == "Scope":
            return str(above.GetName())
        above = above.GetParent()
    return ""


def _values_at(values: Any, interpolation: str, corners: NDArray[np.int64], count: int) -> NDArray[np.float64] | None:
    """Values (C, k) at corners of faces of what is told by point or by corner; None for what is told otherwise."""
    if values is None or not len(values):
        return None
    held = np.asarray(values, float)
    if interpolation in ("vertex", "varying") and len(held) == count:
        return np.asarray(held[corners])
    if interpolation == "faceVarying" and len(held) == len(corners):
        return held
    return None


def _decoded(data: bytes) -> NDArray[np.uint8] | None:
    try:
        with Image.open(io.BytesIO(data)) as image:
            if image.width * image.height > 268_000_000 or max(image.size) > 16_384:
                return None
            return np.asarray(image.convert("RGB"))
    except (OSError, ValueError, Image.DecompressionBombError):
        return None


def _solid(prim: Any) -> Shape | None:
    """The plain solids of UsdGeom as triangles."""
    import trimesh

    made: Any = None
    if prim.IsA(UsdGeom.Cube):
        made = trimesh.creation.box(extents=[float(UsdGeom.Cube(prim).GetSizeAttr().Get())] * 3)
    elif prim.IsA(UsdGeom.Sphere):
        made = trimesh.creation.icosphere(3, float(UsdGeom.Sphere(prim).GetRadiusAttr().Get()))
    elif prim.IsA(UsdGeom.Cylinder):
        solid = UsdGeom.Cylinder(prim)
        made = trimesh.creation.cylinder(float(solid.GetRadiusAttr().Get()), float(solid.GetHeightAttr().Get()), 32)
        made.apply_transform(_along(solid.GetAxisAttr().Get()))
    elif prim.IsA(UsdGeom.Cone):
        solid = UsdGeom.Cone(prim)
        height = float(solid.GetHeightAttr().Get())
        made = trimesh.creation.cone(float(solid.GetRadiusAttr().Get()), height, 32)
        made.apply_translation([0, 0, -height / 2])
        made.apply_transform(_along(solid.GetAxisAttr().Get()))
    return None if made is None else of_triangles(made.vertices, made.faces)


def _along(axis: str) -> NDArray[np.float64]:
    """What turns Z into an axis."""
    order = {"X": [2, 0, 1], "Y": [1, 2, 0], "Z": [0, 1, 2]}[str(axis)]
    matrix = np.eye(4)
    matrix[:3, :3] = np.eye(3)[order]
    return matrix
