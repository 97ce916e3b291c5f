"""Pictures of the catalogue's profiles, made one after the other while nothing more urgent waits, and kept."""

from __future__ import annotations

import io
from collections.abc import Callable

from PIL import Image

from valleylight.core.photometry import read as read_photometry
from valleylight.core.preview.portrait import floor_portrait, wall_portrait
from valleylight.server import logs
from valleylight.server.messages.events import CataloguePictured, Event
from valleylight.server.store.files import FileStore
from valleylight.server.store.portraits import path_of
from valleylight.server.store.tables import ProfileRow

log = logs.log()

#: Colour temperature of the pictures of a profile that states none.
SHOWN_K = 3000.0
#: News of progress after so many profiles.
TELL_EVERY = 5


def make(files: FileStore, sha256: str, kelvin: float | None, side: str, ev100: float | None) -> float:
    """Make and keep one picture; returns the exposure value it was developed at."""
    profile = read_photometry(files.read(sha256))
    made = (wall_portrait if side == "wall" else floor_portrait)(profile, kelvin or SHOWN_K, ev100)
    out = io.BytesIO()
    Image.fromarray(made.picture).save(out, "JPEG", quality=90)
    target = path_of(files, sha256, side, ev100)
    partial = target.with_suffix(".part")
    partial.write_bytes(out.getvalue())
    partial.replace(target)
    return made.ev100


class PortraitMaker:
    """Makes the pictures that are missing."""

    def __init__(self, files: FileStore, send: Callable[[Event], None]) -> None:
        self._files, self._send = files, send
        self._maybe_more = True
        self._made = 0

    @property
    def has_work(self) -> bool:
        return self._maybe_more

    def wake(self) -> None:
        self._maybe_more = True

    def step(self) -> None:
        """Both pictures of the next profile."""
        row = ProfileRow.select().where(ProfileRow.pictured == False).order_by(ProfileRow.created).first()  # noqa: E712
        if row is None:
            self._maybe_more = False
            if self._made:
                self._send(CataloguePictured())
                self._made = 0
            return
        try:
            make(self._files, row.sha256, row.kelvin, "floor", None)
            row.wall_ev = make(self._files, row.sha256, row.kelvin, "wall", None)
        except Exception:  # a picture that cannot be made must not be tried for ever
            log.exception("a portrait failed")
        row.pictured = True
        row.save()
        self._made += 1
        if self._made % TELL_EVERY == 0:
            self._send(CataloguePictured())
