"""How plates differ, their settings back, and thinning, as the API sends and takes them."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.core.history.steps import Step
from valleylight.server.web.schemas.asked import Asked
from valleylight.server.web.schemas.projects import ProjectState


class DifferenceTold(BaseModel):
    """One thing that is otherwise, in words, and the step of work at which it is set."""

    step: Step
    text: str


class BackWanted(Asked):
    """A plate's settings: over what is there now, or beside it as a view and an occasion of their own."""

    as_new: bool = False


class SettingsBack(BaseModel):
    """Where the settings are now, and the project with them."""

    view: str
    occasion: str
    project: ProjectState


class Thinning(BaseModel):
    """The plates that the rule would put away, the oldest first."""

    plates: list[int]
    rule: str = Field(description="The rule in words")
