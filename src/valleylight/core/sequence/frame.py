"""One frame after the other of a sequence: traced while the shutter is open, cleaned, its cut-outs laid in, held steady, finished."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.compose.composer import Composer
from valleylight.core.film.denoise import clean_guides, clean_picture, remove_noise
from valleylight.core.film.film import Film
from valleylight.core.finish.balance import balance_of
from valleylight.core.finish.look import apply
from valleylight.core.finish.seen import needs_masks, seen_of
from valleylight.core.lamps.compile import tinting_levels
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Occasion, View
from valleylight.core.project.sequence import Sequence
from valleylight.core.sequence.course import Course
from valleylight.core.sequence.effort import SAMPLES, WITHOUT_BEFORE
from valleylight.core.sequence.steady import MOST_FRAMES, MOST_IN_CHANGING_LIGHT, Remembered, noise_share, steadied
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.camera import camera_array
from valleylight.core.trace.render import new_film, trace_tiles
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import QUALITIES
from valleylight.core.trace.tiles import tiles


@dataclass(frozen=True)
class Frame:
    """A frame made: its display picture (H, W, 3) of sRGB codes, and what the next one is held steady by."""

    picture: NDArray[np.uint8]
    kept: Remembered


@dataclass
class Traced:
    """A frame being traced, or to be finished: `sample` of `samples` are there, and `place` of the tiles of the next."""

    number: int
    view: View
    occasion: Occasion
    scene: RenderScene
    film: Film
    cameras: list[NDArray[np.float64]]
    samples: int
    sample: int = 0
    place: int = 0


class FrameMaker:
    """Makes the frames of a sequence, in any order; those that follow each other are held steady by the one before.

    `begin` a frame and `trace_some` until that says it is done; `take` it then, and `finish` it: on another thread, should the next one be begun
    meanwhile, but in their order. Where nothing but lamps changes one film is traced for all frames, and each is a balance of it. Raises
    InputError where nothing changes at all, or as `Course` does.
    """

    def __init__(
        self, compiler: Compiler, composer: Composer, pool: ThreadPoolExecutor, project: LoadedProject, sequence: Sequence,
        size: tuple[int, int], quality: str = "proof", every: int = 1,
    ) -> None:  # fmt: skip
        self.course = Course(project.description, sequence)
        self.course.check_that_it_changes()
        self._compiler, self._composer, self._pool, self._project = compiler, composer, pool, project
        self._size, self._quality, self._every = size, quality, every
        self._balanced_only = not self.course.moves and not self.course.daylight_changes and self._tints_stand()
        self._one: tuple[RenderScene, Film] | None = None
        self._hand: Traced | None = None

    @property
    def progress(self) -> float:
        """How much of the frame in hand is traced, 0 to 1."""
        hand = self._hand
        if hand is None:
            return 0.0
        return (hand.sample + hand.place / max(len(self._tiles), 1)) / max(hand.samples, 1)

    @property
    def _tiles(self) -> list[tuple[int, int, int, int]]:
        return tiles(*self._size)

    def camera(self, number: int) -> NDArray[np.float64]:
        """The lens (26,) of a frame in the middle of its shutter time, in the model's coordinates."""
        view = self.course.view(self.course.second_of(number))
        return camera_array(view, view.lens_for(self.course.sequence.occasion).f_number, self._size[0] / self._size[1])

    def begin(self, number: int, has_before: bool) -> None:
        """Set a frame up. `has_before` says whether it will be held steady by another, and so needs fewer samples."""
        second = self.course.second_of(number)
        view, occasion = self.course.view(second), self.course.occasion(second)
        if self._balanced_only and self._one is not None:
            scene, film = self._one
            self._hand = Traced(number, view, occasion, scene, film, [], 0)
            return
        traced = self._brightest() if self._balanced_only else occasion
        quality = QUALITIES[self._quality]
        described = replace(self._project, description=self.course.project_with(view, traced))
        scene = self._compiler.scene(described, view, traced, *self._size, number + 1, quality)
        film = new_film(scene, view, traced, *self._size, needs_masks(described.description.look_for(view, traced)))
        samples = SAMPLES[self._quality] * (1 if has_before else WITHOUT_BEFORE)
        self._hand = Traced(number, view, occasion, scene, film, self._cameras(scene, second, samples), samples)

    def trace_some(self, most_tiles: int = 1 << 30) -> bool:
        """Trace some tiles of the next sample; returns whether the frame has all of them."""
        hand = self._hand
        assert hand is not None
        if hand.sample >= hand.samples:
            return True
        every = self._tiles
        part = every[hand.place : hand.place + most_tiles]
        scene = replace(hand.scene, camera=hand.cameras[hand.sample])
        trace_tiles(scene, hand.film, part, hand.sample, hand.sample + 1, self._pool)
        hand.place += len(part)
        if hand.place >= len(every):
            hand.place = 0
            hand.sample += 1
            hand.film.samples = hand.sample
        return hand.sample >= hand.samples

    def take(self) -> Traced:
        """The frame in hand, traced."""
        hand, self._hand = self._hand, None
        assert hand is not None
        if self._balanced_only and self._one is None:
            remove_noise(hand.film, self._level)
            self._one = hand.scene, hand.film
        return hand

    @property
    def _level(self) -> str:
        """How carefully noise is removed."""
        return {"sketch": "fast", "press": "high"}.get(self._quality, "balanced")

    def finish(self, hand: Traced, before: Remembered | None) -> Frame:
        """Clean, compose, steady and finish a traced frame. `before` is what is kept of the frame before it, none where there is none."""
        film, scene = hand.film, hand.scene
        gains = balance_of(hand.occasion).gains(film)
        if self._balanced_only:
            linear = film.balanced(gains)
        else:
            colour, normal = (np.ascontiguousarray(guide, np.float32) for guide in film.guides)
            if led := self._level != "fast":
                colour, normal = clean_guides(colour, normal, self._level)
            linear = clean_picture(film.balanced(gains), colour, normal, self._level, trusted=led)
        noise = noise_share(film)
        described = self.course.project_with(hand.view, hand.occasion)
        laid = self._composer.laid(described, scene, film, hand.view, hand.occasion)
        if laid is not None:
            film, linear = laid.on_passes(film), laid.on_sum(linear, film, gains)
        most = MOST_IN_CHANGING_LIGHT if self.course.light_changes else MOST_FRAMES
        camera = scene.camera.copy()
        camera[layout.three(layout.CAMERA_PLACE)] += scene.origin
        kept = steadied(linear, film.passes["depth"], noise, camera, None if self._balanced_only else before, most)
        look = described.look_for(hand.view, hand.occasion)
        white = float(film.settings["saturation_cd_m2"])
        picture = apply(kept.picture, look, saturation_cd_m2=white, seen=seen_of(film, look, self._project.asset))
        return Frame(picture, kept)

    def make(self, number: int, before: Remembered | None = None) -> Frame:
        """A frame at once."""
        self.begin(number, before is not None)
        while not self.trace_some():
            pass
        return self.finish(self.take(), before)

    def _cameras(self, scene: RenderScene, second: float, samples: int) -> list[NDArray[np.float64]]:
        """The lens of each sample: they lie evenly over the time that the shutter is open, and each moves on to the next."""
        opened = self.course.shutter_s(self._every)
        if not self.course.moves or opened <= 0:
            return [scene.camera] * samples
        times = second + opened * (np.arange(samples + 1) / samples - 0.5)
        times = np.clip(times, 0.0, self.course.sequence.seconds)
        made = []
        for begins, ends in zip(times, times[1:], strict=False):
            view = self.course.view(float(begins))
            moved = view.model_copy(update={"moves_to": self.course.view(float(ends)).position})
            camera = camera_array(
                moved, moved.lens_for(self.course.sequence.occasion).f_number, self._size[0] / self._size[1]
            )
            camera[layout.three(layout.CAMERA_PLACE)] -= scene.origin
            made.append(camera)
        # Neighbouring pixels ask for the samples in one order; the order of the moments is mixed, that a trace left early is no half shutter.
        return [made[k] for k in np.random.default_rng(1).permutation(samples)]

    def _moments(self) -> list[Occasion]:
        return [self.course.occasion(self.course.second_of(k)) for k in self.course.frames(self._every)]

    def _tints_stand(self) -> bool:
        """Whether no lamp changes its colour with its level: then one film holds for all levels."""
        described = self._project.description
        found = [tinting_levels(described, occasion) for occasion in self._moments()]
        return all(tints == found[0] for tints in found)

    def _brightest(self) -> Occasion:
        """The occasion with each group at the highest level that it reaches."""
        moments = self._moments()
        groups = sorted({g for o in moments for g in o.levels})
        return moments[0].model_copy(update={
            "levels": {g: max(o.levels.get(g, 100.0) for o in moments) for g in groups},
        })  # fmt: skip


def made_one_by_one(maker: FrameMaker, told: Callable[[int, Frame], None], every: int = 1) -> None:
    """All frames in their order, each told with its number; one is finished while the next is traced."""
    kept: list[Remembered] = []

    def finish(traced: Traced) -> None:
        frame = maker.finish(traced, kept[-1] if kept else None)
        kept[:] = [frame.kept]
        told(traced.number, frame)

    with ThreadPoolExecutor(1) as finisher:
        last: Future[None] | None = None
        for number in maker.course.frames(every):
            maker.begin(number, last is not None)
            while not maker.trace_some():
                pass
            if last is not None:
                last.result()
            last = finisher.submit(finish, maker.take())
        if last is not None:
            last.result()
