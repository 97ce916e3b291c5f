"""What goes over the WebSocket of a project's page, both ways."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from valleylight.core.project.changes import Change
from valleylight.server.messages.picture import LiveFault, LiveHeader, PictureMode

JobStatus = Literal["waiting", "running", "done", "stopped", "failed"]


class MomentShown(BaseModel):
    """A moment of a sequence."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    sequence: str = Field(max_length=64)
    second: float = Field(ge=0, le=600)


class Show(BaseModel):
    """Show a view at an occasion, with changes not saved yet."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    type: Literal["show"]
    serial: int
    view: str
    occasion: str
    draft: list[Change] = Field([], max_length=2000)
    dragging: bool = Field(False, description="Something is being dragged: pictures may be smaller, but must keep coming")
    moment: MomentShown | None = Field(None, description="The view and the occasion as a sequence has them then")
    mode: PictureMode = "picture"
    alone: str | None = Field(None, max_length=80, description="The only fixture group that is shown")


class Hide(BaseModel):
    """Nothing is looked at for now."""

    model_config = ConfigDict(extra="forbid")
    type: Literal["hide"]


#: What a page may say.
Said = TypeAdapter[Show | Hide](Annotated[Show | Hide, Field(discriminator="type")])


class JobNews(BaseModel):
    """How a plate in the making stands."""

    type: Literal["job"] = "job"
    id: int
    plate: int
    view: str
    occasion: str
    status: JobStatus
    samples_done: int
    samples: int
    message: str
    seconds_spent: float
    seconds_left: float | None


class PreviewNews(BaseModel):
    """A plate in the making, as a small picture in a data URI."""

    type: Literal["preview"] = "preview"
    job: int
    image: str


class ProjectNews(BaseModel):
    """The project was edited: by which hand, and what."""

    type: Literal["project"] = "project"
    revision: int
    label: str
    hand: str


class PlatesNews(BaseModel):
    """The list of plates is another."""

    type: Literal["plates"] = "plates"


class RunsNews(BaseModel):
    """A sequence in the making is further on."""

    type: Literal["runs"] = "runs"


class CatalogueNews(BaseModel):
    """Pictures of profiles have been made."""

    type: Literal["catalogue"] = "catalogue"


class AwayNews(BaseModel):
    """The project has been put away."""

    type: Literal["away"] = "away"


class RefusedNews(BaseModel):
    """A wish that cannot be shown, and why."""

    type: Literal["refused"] = "refused"
    serial: int | None
    detail: str


class WorkerNews(BaseModel):
    """The renderer died and is being started again, or is there again."""

    type: Literal["worker"] = "worker"
    state: Literal["restarting", "ready"]


News = JobNews | PreviewNews | ProjectNews | PlatesNews | RunsNews | CatalogueNews | AwayNews | RefusedNews | WorkerNews


def schemas() -> dict[str, Any]:
    """JSON schemas of all that goes over the socket, by name, as components of the OpenAPI document."""
    kinds = TypeAdapter(list[Show | Hide | LiveHeader | LiveFault | News])
    made = kinds.json_schema(ref_template="#/components/schemas/{model}", mode="serialization", by_alias=True)
    return dict(made["$defs"])
