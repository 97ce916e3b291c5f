"""What every part of a description is made of: names, keys, and numbers within their limits."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
Key = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,63}$")]
#: What models call their materials, objects and layers: long, at times.
GivenName = Annotated[str, StringConstraints(min_length=1, max_length=200)]
Sha256 = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
#: Survey coordinates reach 10 000 km.
Metres = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
Point = tuple[Metres, Metres, Metres]
Percent = Annotated[float, Field(ge=0, le=400, allow_inf_nan=False)]
Kelvin = Annotated[float, Field(ge=1000, le=25_000, allow_inf_nan=False)]
Stops = Annotated[float, Field(ge=-20, le=20, allow_inf_nan=False)]


class Part(BaseModel):
    """Base of every block of the description: unknown fields are an error, not silently dropped."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)
