"""Ask Embree: what does a ray meet, and is a segment free?

A ray buffer is 32 float32 words, 64-byte aligned: RTCRay (12 words) then RTCHit (9 words); see the Embree 4 manual.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.trace.compiled import kernel
from valleylight.core.trace.embree import rtcIntersect1, rtcOccluded1

U32 = np.uint32
#: Geometry masks: what a ray can meet.
OPAQUE, GLASS, BODY = 1, 2, 4
EVERYTHING = OPAQUE | GLASS | BODY
NOTHING = 0xFFFFFFFF

FAR, HIT_U, HIT_V, HIT_PRIMITIVE, HIT_GEOMETRY, HIT_INSTANCE = 8, 15, 16, 17, 18, 19


def new_ray() -> NDArray[np.float32]:
    """A ray buffer, one for each thread."""
    raw = np.empty(64, np.float32)
    pad = (64 - raw.ctypes.data % 64) % 64 // 4
    return raw[pad : pad + 32]


@kernel
def closest(scene, ray, word, ox, oy, oz, dx, dy, dz, far, mask):
    """Nearest hit; the answer stands in the buffer. True when something was met."""
    ray[0], ray[1], ray[2], ray[3] = ox, oy, oz, 0.0
    ray[4], ray[5], ray[6], ray[7] = dx, dy, dz, 0.0
    ray[8] = far
    word[9], word[10], word[11] = U32(mask), 0, 0
    word[18], word[19] = U32(NOTHING), U32(NOTHING)
    rtcIntersect1(scene, ray.ctypes.data, 0)
    return word[18] != U32(NOTHING)


@kernel
def blocked(scene, ray, word, ox, oy, oz, dx, dy, dz, far, mask):
    """True when anything of `mask` lies on the segment."""
    ray[0], ray[1], ray[2], ray[3] = ox, oy, oz, 0.0
    ray[4], ray[5], ray[6], ray[7] = dx, dy, dz, 0.0
    ray[8] = far
    word[9], word[10], word[11] = U32(mask), 0, 0
    rtcOccluded1(scene, ray.ctypes.data, 0)
    return ray[8] < 0.0
