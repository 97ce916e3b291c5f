"""What a picture of a project says of itself."""

from __future__ import annotations

from valleylight.core.film.caption import Caption
from valleylight.core.project.description import Occasion, Project, View


def caption_of(project: Project, view: View, occasion: Occasion) -> Caption:
    """The caption of a view at an occasion."""
    return Caption(
        project.name, view.name, occasion.name, occasion.when, project.site.place, occasion.sun.true_to_place
    )
