"""Puts the cut-outs of a description into films of its scenes, and keeps what that needs: their sprites, and the light at their places."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from valleylight.core.compose.ground import SeenOfFilm, seen_of_film
from valleylight.core.compose.lay import Laid, Memory, laid
from valleylight.core.compose.light import SAMPLES, Lights, sunlight_of, veil_of
from valleylight.core.compose.sprites import Sprites
from valleylight.core.film.film import Film
from valleylight.core.project.cutout import CutOut
from valleylight.core.project.description import Occasion, Project, View
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.scene.compiler import RenderScene


class Composer:
    """Lays cut-outs into films."""

    def __init__(self, sprites: Sprites) -> None:
        self.sprites = sprites
        self._lights = Lights()
        self._memory = Memory()
        self._seen: tuple[Film, int, SeenOfFilm] | None = None
        #: Cut-outs left out of what was laid last, for their sprites are not there yet, with the directions they are looked at from.
        self.missing: list[tuple[CutOut, tuple[float, float]]] = []

    def laid(
        self, project: Project, scene: RenderScene, film: Film, view: View, occasion: Occasion, samples: int = SAMPLES, waits: bool = True, hold: bool = False,
        stop: Callable[[], bool] = lambda: False,
    ) -> Laid | None:  # fmt: skip
        """What the cut-outs of a view at an occasion do to a film of its scene; None where there are none.

        With `hold` the light of what is carried stays what it was. Where it does not wait, those that must be traced first are left out and told as `missing`. Raises InputError for a picture
        that cannot be read, StoppedError once `stop` says so while one is traced.
        """
        self.missing = []
        cutouts = project.cutouts_at(view.key, occasion.key)
        if not waits:
            cutouts = tuple(c for c in cutouts if not self._lacks(c, scene))
        if not cutouts:
            return None
        found, self._memory = laid(
            self._seen_of(film, scene), cutouts, self._lights.at(scene, cutouts, samples, hold), lambda c, towards: self.sprites.of(c, towards, stop),
            sunlight_of(scene), veil_of(scene, occasion.air), self._memory,
        )  # fmt: skip
        return found

    def composed(self, project: Project, scene: RenderScene, film: Film, view: View, occasion: Occasion) -> Film:
        """The film with the cut-outs in it."""
        found = self.laid(project, scene, film, view, occasion)
        return film if found is None else found.on_film(film)

    def make_missing(self, stop: Callable[[], bool]) -> None:
        """Trace one of the missing sprites. Raises InputError, StoppedError as `laid`."""
        if self.missing:
            cutout, towards = self.missing[0]
            self.sprites.of(cutout, towards, stop)
            self.missing.pop(0)

    def _lacks(self, cutout: CutOut, scene: RenderScene) -> bool:
        """Whether a sprite is missing that the lens or the sun sees; it is then noted."""
        ways = [scene.camera[layout.three(layout.CAMERA_PLACE)] + scene.origin - np.array(cutout.place)]
        sun = sunlight_of(scene)
        if sun is not None and cutout.cast > 0:
            ways.append(sun.towards)
        lacking = [
            (cutout, (float(w[0]), float(w[1])))
            for w in ways
            if not self.sprites.has(cutout, (float(w[0]), float(w[1])))
        ]
        self.missing += lacking
        return bool(lacking)

    def _seen_of(self, film: Film, scene: RenderScene) -> SeenOfFilm:
        """What laying asks of a film, kept until another or a further sample of it comes."""
        if self._seen is None or self._seen[0] is not film or self._seen[1] != film.samples:
            self._seen = film, film.samples, seen_of_film(film, scene.camera, scene.origin, sunlight_of(scene))
        return self._seen[2]
