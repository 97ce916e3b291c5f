"""What a picture file says of itself."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True)
class Caption:
    """Project, view and occasion of a picture; the moment it shows, civil time at the site."""

    project: str
    view: str
    occasion: str
    when: datetime
    place: str
    true_to_place: bool

    @property
    def title(self) -> str:
        return f"{self.project}: {self.view}, {self.occasion}"

    @property
    def text(self) -> str:
        truth = "true to date and place" if self.true_to_place else "sun set by hand"
        return f"{self.view} at {self.when:%Y-%m-%d %H:%M}, {self.place}; {truth}"

    @property
    def when_exif(self) -> str:
        """The moment as Exif and OpenEXR write it."""
        return f"{self.when:%Y:%m:%d %H:%M:%S}"
