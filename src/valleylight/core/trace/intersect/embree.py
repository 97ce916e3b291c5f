"""Embree 4 from Python: build scenes here, let compiled kernels call its ray functions by name.

The shared library comes inside the PyPI package embreex. Source of layouts and constants: Embree 4 API manual.
"""

from __future__ import annotations

import ctypes
import glob
import os
import threading

import embreex
import llvmlite.binding as llvm
import numpy as np
from numba import types
from numpy.typing import NDArray

_FOLDER = os.path.join(os.path.dirname(embreex.__file__), "..", "embreex.libs")
_LIBRARY = sorted(glob.glob(os.path.join(_FOLDER, "libembree4*")))[0]
_embree = ctypes.CDLL(_LIBRARY, mode=ctypes.RTLD_GLOBAL)
llvm.load_library_permanently(_LIBRARY)  # compiled kernels resolve rtcIntersect1 and rtcOccluded1 by name

_P, _U = ctypes.c_void_p, ctypes.c_uint
for _name, _result, _arguments in [
    ("rtcNewDevice", _P, [ctypes.c_char_p]),
    ("rtcNewScene", _P, [_P]),
    ("rtcReleaseScene", None, [_P]),
    ("rtcSetSceneBuildQuality", None, [_P, ctypes.c_int]),
    ("rtcNewGeometry", _P, [_P, ctypes.c_int]),
    ("rtcReleaseGeometry", None, [_P]),
    ("rtcSetNewGeometryBuffer", _P, [_P, ctypes.c_int, _U, ctypes.c_int, ctypes.c_size_t, ctypes.c_size_t]),
    ("rtcSetGeometryMask", None, [_P, _U]),
    ("rtcSetGeometryInstancedScene", None, [_P, _P]),
    ("rtcSetGeometryTransform", None, [_P, _U, ctypes.c_int, _P]),
    ("rtcSetGeometryTimeStepCount", None, [_P, _U]),
    ("rtcCommitGeometry", None, [_P]),
    ("rtcAttachGeometry", _U, [_P, _P]),
    ("rtcCommitScene", None, [_P]),
    ("rtcGetDeviceError", ctypes.c_int, [_P]),
]:
    _function = getattr(_embree, _name)
    _function.restype, _function.argtypes = _result, _arguments

# External symbols, not ctypes pointers: a kernel that uses them can still be cached on disk.
rtcIntersect1 = types.ExternalFunction("rtcIntersect1", types.void(types.uintp, types.uintp, types.uintp))
rtcAttachGeometry = types.ExternalFunction("rtcAttachGeometry", types.uint32(types.uintp, types.uintp))
rtcOccluded1 = types.ExternalFunction("rtcOccluded1", types.void(types.uintp, types.uintp, types.uintp))

_TRIANGLE, _INSTANCE = 0, 121
_INDEX, _VERTEX = 0, 1
_UINT3, _FLOAT3, _FLOAT3X4_ROW_MAJOR = 0x5003, 0x9003, 0x9134
_DEVICE_SETTINGS = b"tri_accel=bvh4.triangle4"  # for incoherent single rays some 10 percent faster than wider nodes
_BUILD_HIGH = 2  # slower to build, some 15 percent faster to trace
_device: int | None = None
_lock = threading.Lock()


def _get_device() -> int:
    global _device
    with _lock:
        if _device is None:
            _device = _embree.rtcNewDevice(_DEVICE_SETTINGS)
            if not _device:
                raise RuntimeError("Embree gave no device")
    return _device


class RayScene:
    """An Embree scene of triangle meshes and instances of other scenes. Freed with the object."""

    def __init__(self) -> None:
        self._device = _get_device()
        self.handle: int = _embree.rtcNewScene(self._device)
        _embree.rtcSetSceneBuildQuality(self.handle, _BUILD_HIGH)
        self._kept: list[object] = []

    def add_triangles(self, points: NDArray[np.float32], triangles: NDArray[np.uint32], mask: int) -> int:
        """Add a mesh, points (V, 3) and triangles (T, 3); returns its geometry id."""
        geometry = _embree.rtcNewGeometry(self._device, _TRIANGLE)
        for slot, layout, data in (
            (_VERTEX, _FLOAT3, np.ascontiguousarray(points, np.float32)),
            (_INDEX, _UINT3, np.ascontiguousarray(triangles, np.uint32)),
        ):
            target = _embree.rtcSetNewGeometryBuffer(geometry, slot, 0, layout, 12, len(data))
            ctypes.memmove(target, data.ctypes.data, data.nbytes)
        return self._attach(geometry, mask)

    def add_instance(self, instance: Instance) -> int:
        """Add a placed scene, which may stand in several scenes; returns its geometry id."""
        self._kept.append(instance)
        return int(_embree.rtcAttachGeometry(self.handle, instance.handle))

    def keep(self, instances: tuple[Instance, ...]) -> None:
        """Keep instances alive that a kernel attaches by their handles (`rays.attach_all`)."""
        self._kept.append(instances)

    def commit(self) -> RayScene:
        _embree.rtcCommitScene(self.handle)
        error = _embree.rtcGetDeviceError(self._device)
        if error:
            raise RuntimeError(f"Embree error {error} while building the ray structure")
        return self

    def _attach(self, geometry: int, mask: int) -> int:
        _embree.rtcSetGeometryMask(geometry, mask)
        _embree.rtcCommitGeometry(geometry)
        number = int(_embree.rtcAttachGeometry(self.handle, geometry))
        _embree.rtcReleaseGeometry(geometry)
        return number

    def __del__(self) -> None:
        if getattr(self, "handle", None):
            _embree.rtcReleaseScene(self.handle)
            self.handle = 0


class Instance:
    """A committed scene under a 4 x 4 matrix, to be added to any number of scenes. Freed with the object."""

    def __init__(self, scene: RayScene, matrix: NDArray[np.float64], mask: int) -> None:
        self._scene = scene  # keeps what is placed alive
        self.handle: int = _embree.rtcNewGeometry(_get_device(), _INSTANCE)
        _embree.rtcSetGeometryInstancedScene(self.handle, scene.handle)
        _embree.rtcSetGeometryTimeStepCount(self.handle, 1)
        rows = np.ascontiguousarray(matrix[:3, :4], np.float32)
        _embree.rtcSetGeometryTransform(self.handle, 0, _FLOAT3X4_ROW_MAJOR, rows.ctypes.data)
        _embree.rtcSetGeometryMask(self.handle, mask)
        _embree.rtcCommitGeometry(self.handle)

    def __del__(self) -> None:
        if getattr(self, "handle", None):
            _embree.rtcReleaseGeometry(self.handle)
            self.handle = 0
