"""The base of every message."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Message(BaseModel):
    """Made once, never changed; what it does not know is refused."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)
