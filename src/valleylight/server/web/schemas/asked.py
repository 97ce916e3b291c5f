"""What requests have in common."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Asked(BaseModel):
    """Base of what is sent to the server: numbers are finite, and fields that nobody knows are an error."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
