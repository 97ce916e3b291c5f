"""What is read of finished pictures, as the API sends and takes it."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.server.web.schemas.asked import Asked


class ScopesWanted(Asked):
    """The live picture of a view at an occasion."""

    view: str
    occasion: str


class ScopesRead(BaseModel):
    """Shares of the pixels of a finished picture; grids row by row, as counts from 0 to 255 by the square root of the share."""

    red: list[float]
    green: list[float]
    blue: list[float]
    luma: list[float]
    waveform: str = Field(description="Base64 of bytes, row by row from white to black")
    waveform_size: tuple[int, int] = Field(description="Rows and columns")
    vectors: str = Field(description="Base64 of bytes, row by row: Cr upwards, Cb to the right")
    vectors_size: int
    zones: list[float] = Field(description="Shares of the eleven exposure zones, from black")
    black: float
    white: float
    mean_kelvin: float | None
    cast: str = Field(description="What a grey-world check says of the mean")


class PrintProfile(BaseModel):
    """An ICC profile of a printer and its paper."""

    sha256: str
    name: str
