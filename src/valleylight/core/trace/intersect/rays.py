"""Ask Embree: what does a ray meet, and is a segment free?

A ray buffer is 32 float32 words, 64-byte aligned: RTCRay (12 words) then RTCHit (9 words); see the Embree 4 manual.
"""

from __future__ import annotations

import threading
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.intersect.embree import rtcAttachGeometry, rtcIntersect1, rtcOccluded1

U32 = np.uint32
#: What a ray can meet. OPAQUE casts shadow; BODY casts only the shadow of daylight; PASSES lets some light by: panes,
#: solid glass, cut-outs. The rest tells which rays see an object: from the lens, after a mirror, after a rough bounce.
OPAQUE, BODY, PASSES, BY_LENS, BY_MIRROR, BY_BOUNCE = 1, 4, 2, 8, 16, 32
SEEN = BY_LENS | BY_MIRROR | BY_BOUNCE
EVERYTHING = 63
NOTHING = 0xFFFFFFFF

#: A ray buffer: RTCRay, then RTCHit.
(ORIGIN, NEAR, TOWARDS, TIME, FAR, MASK, ID, FLAGS, HIT_NORMAL, HIT_U, HIT_V, HIT_PRIMITIVE, HIT_GEOMETRY, HIT_INSTANCE) = (
    0, 3, 4, 7, 8, 9, 10, 11, 12, 15, 16, 17, 18, 19
)  # fmt: skip


def new_rays(number: int) -> NDArray[np.float32]:
    """Ray buffers (number, 32)."""
    raw = np.zeros(32 * number + 16, np.float32)
    pad = (64 - raw.ctypes.data % 64) % 64 // 4
    return raw[pad : pad + 32 * number].reshape(number, 32)


def new_ray() -> NDArray[np.float32]:
    """A ray buffer."""
    return new_rays(1)[0]


class Work(NamedTuple):
    """What one thread works with: settings of the trace, camera, its ray buffer, the
    paths it follows, and the film it adds to."""

    settings: NDArray[np.float64]
    camera: NDArray[np.float64]
    ray: NDArray[np.float32]
    word: NDArray[np.uint32]  # the same memory as integers
    shadow: NDArray[np.float32]  # a second buffer for rays towards light, so that the first keeps what its ray has met
    shadow_word: NDArray[np.uint32]
    paths: NDArray[np.float64]  # (PATHS, 32) the paths on their way, see layout
    met: NDArray[np.float32]  # (PATHS, 32) a ray buffer for each of them
    met_word: NDArray[np.uint32]
    queue: NDArray[np.int64]  # (PATHS,) rows of the paths that go on
    samples: NDArray[np.float64]  # (PATHS, 10) the samples they belong to, see layout
    film: NDArray[np.float32]  # (H, W, G, 3) sums in cd/m2
    passes: NDArray[np.float32]  # (H, W, PASS_WIDTH) sums, see film/columns.py
    spill: NDArray[np.float32]  # (H / 8, W / 8, G, 3) sums in cd/m2 of light beyond the limit, by cell
    ids: NDArray[np.float32]  # (H, W, 2, R, 2) counts of objects and materials, or empty
    questions: NDArray[np.float64]  # (QUESTIONS, 22) rays towards light, see layout
    weights: NDArray[np.float64]  # (MOST_OPENINGS,) how the openings weigh at the point at hand


_NO_CAMERA = np.zeros(layout.CAMERA_WIDTH)
_NO_FILM, _NO_PASSES, _NO_IDS = (np.zeros((0,) * n, np.float32) for n in (4, 3, 5))


_mine = threading.local()


def new_work(
    settings: NDArray[np.float64], camera: NDArray[np.float64] = _NO_CAMERA, film: NDArray[np.float32] = _NO_FILM,
    passes: NDArray[np.float32] = _NO_PASSES, ids: NDArray[np.float32] = _NO_IDS, spill: NDArray[np.float32] = _NO_FILM,
) -> Work:  # fmt: skip
    """A workbench for this thread alone, good until it takes the next one: a picture takes one for every tile, and what is written
    over anyway is laid out once."""
    if not hasattr(_mine, "work"):
        ray, shadow, met = new_ray(), new_ray(), new_rays(layout.PATHS)
        _mine.work = Work(
            np.zeros(layout.SETTINGS_WIDTH), _NO_CAMERA, ray, ray.view(np.uint32), shadow, shadow.view(np.uint32),
            np.zeros((layout.PATHS, layout.PATH_WIDTH)), met, met.view(np.uint32), np.zeros(layout.PATHS, np.int64),
            np.zeros((layout.PATHS, layout.SAMPLE_WIDTH)), _NO_FILM, _NO_PASSES, _NO_FILM, _NO_IDS,
            np.zeros((layout.QUESTIONS, layout.QUESTION_WIDTH)), np.zeros(layout.MOST_OPENINGS),
        )  # fmt: skip
    blank: Work = _mine.work
    return blank._replace(settings=settings, camera=camera, film=film, passes=passes, ids=ids, spill=spill)


@kernel
def attach_all(scene, handles):
    """Put geometries (by handle, uint64) into a scene; their ids follow on those that stand in it. Source: Embree 4 API."""
    for k in range(len(handles)):
        rtcAttachGeometry(scene, handles[k])


@part
def closest(scene, ray, word, ox, oy, oz, dx, dy, dz, far, mask):
    """Nearest hit; the answer stands in the buffer. True when something was met."""
    ray[ORIGIN], ray[ORIGIN + 1], ray[ORIGIN + 2], ray[NEAR] = ox, oy, oz, 0.0
    ray[TOWARDS], ray[TOWARDS + 1], ray[TOWARDS + 2], ray[TIME] = dx, dy, dz, 0.0
    ray[FAR] = far
    word[MASK], word[ID], word[FLAGS] = U32(mask), 0, 0
    word[HIT_GEOMETRY], word[HIT_INSTANCE] = U32(NOTHING), U32(NOTHING)
    rtcIntersect1(scene, ray.ctypes.data, 0)
    return word[HIT_GEOMETRY] != U32(NOTHING)


@part
def look(scene, work, row, far):
    """Nearest thing the ray of the path in a row meets; the answer stands in that row's buffer."""
    p, ray, word = work.paths, work.met, work.met_word
    ray[row, ORIGIN], ray[row, ORIGIN + 1], ray[row, ORIGIN + 2], ray[row, NEAR] = (
        p[row, layout.ORIGIN],
        p[row, layout.ORIGIN + 1],
        p[row, layout.ORIGIN + 2],
        0.0,
    )
    ray[row, TOWARDS], ray[row, TOWARDS + 1], ray[row, TOWARDS + 2], ray[row, TIME] = (
        p[row, layout.TOWARDS],
        p[row, layout.TOWARDS + 1],
        p[row, layout.TOWARDS + 2],
        0.0,
    )
    ray[row, FAR] = far
    word[row, MASK], word[row, ID], word[row, FLAGS] = U32(p[row, layout.MASK]), 0, 0
    word[row, HIT_GEOMETRY], word[row, HIT_INSTANCE] = U32(NOTHING), U32(NOTHING)
    rtcIntersect1(scene, ray.ctypes.data + row * 128, 0)


@part
def recall(work, row):
    """Take what the path in a row met into the ray buffer at hand. True when there was something."""
    work.ray[FAR], work.ray[HIT_U], work.ray[HIT_V] = work.met[row, FAR], work.met[row, HIT_U], work.met[row, HIT_V]
    for k in range(HIT_PRIMITIVE, HIT_INSTANCE + 1):
        work.word[k] = work.met_word[row, k]
    return work.met_word[row, HIT_GEOMETRY] != U32(NOTHING)


@part
def blocked(scene, ray, word, ox, oy, oz, dx, dy, dz, far, mask):
    """True when anything of `mask` lies on the segment."""
    ray[ORIGIN], ray[ORIGIN + 1], ray[ORIGIN + 2], ray[NEAR] = ox, oy, oz, 0.0
    ray[TOWARDS], ray[TOWARDS + 1], ray[TOWARDS + 2], ray[TIME] = dx, dy, dz, 0.0
    ray[FAR] = far
    word[MASK], word[ID], word[FLAGS] = U32(mask), 0, 0
    rtcOccluded1(scene, ray.ctypes.data, 0)
    return ray[FAR] < 0.0
