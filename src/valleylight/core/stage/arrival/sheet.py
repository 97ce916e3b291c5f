"""The arrival sheet: what was read of a file, how it would be set on the stage and why, and what is to be looked at before."""

from __future__ import annotations

from difflib import SequenceMatcher
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from valleylight.core.project.description import Placement, UpAxis
from valleylight.core.stage.arrival.doubts import doubts_of
from valleylight.core.stage.arrival.evidence import Shapes, guessed_unit_of, guessed_up, shapes_of
from valleylight.core.stage.arrival.outline import outline
from valleylight.core.stage.arrival.units import UNITS
from valleylight.core.stage.assembly import matrix_of
from valleylight.core.stage.model import StageData
from valleylight.core.stage.offers import CameraOffer, LightOffer, SiteOffer
from valleylight.core.stage.overview import frame_of

#: A model whose middle lies farther off than this, in metres and in its own sizes, stands in survey coordinates.
FAR_M, FAR_SIZES = 1000.0, 5.0
#: What one triangle takes in the tracer, and a pixel of a picture (measured).
TRIANGLE_BYTES, PIXEL_BYTES = 260, 3
#: Materials whose names are at least so alike are offered as the same.
ALIKE = 0.6


#: A place in the file's own unit: millimetres of a survey are large numbers.
Place = tuple[float, float, float]


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True, allow_inf_nan=False)


class UnitFound(_Part):
    """The metres of the file's unit, by name where it has one, why, whether the file states it, and whether it is to be looked at."""

    unit: str
    metres: float
    reason: str
    stated: bool
    doubtful: bool


class UpFound(_Part):
    up: UpAxis
    reason: str
    doubtful: bool


class DoubtFound(_Part):
    kind: Literal["doubled", "flipped", "open", "thin", "surface", "said"]
    text: str
    about: str
    box: tuple[Place, Place] | None = Field(description="Low and high corner, in the file's unit and frame")


class MaterialLost(_Part):
    """A material that surfaces were set for and that the new file does not have, and the new one that is most like it."""

    name: str
    likely: str | None


class Compared(_Part):
    """A newer file beside the one that it stands in for: objects by name, and materials."""

    new: list[str]
    gone: list[str]
    kept: int
    lost: list[MaterialLost]


class ArrivalSheet(_Part):
    """What one file holds, in its own unit and frame (Z up as it was read)."""

    name: str
    unit: UnitFound
    up: UpFound
    low: Place
    high: Place
    frame: tuple[Place, Place] = Field(
        description="Low and high corner of what is drawn: all but ground that reaches far beyond it"
    )
    far: Place | None = Field(description="The middle of its foot, where it stands in survey coordinates")
    objects: int
    triangles: int
    memory_bytes: int
    layers: list[str]
    materials: list[str]
    doubts: list[DoubtFound]
    lines: list[tuple[float, float, float, float, float, float]] = Field(description="Edges to draw it by, about `low`")
    cameras: list[CameraOffer]
    lights: list[LightOffer]
    site: SiteOffer | None
    compared: Compared | None = None


def sheet_of(
    stage: StageData,
    name: str,
    metres: float | None,
    before: StageData | None = None,
    dressed: tuple[str, ...] = (),
    land: bool = False,
) -> ArrivalSheet:
    """The sheet of a stage just read. `metres` are those of its unit where the file states it; `before` is what it stands in for,
    `dressed` the materials that surfaces were set for; `land` about a site is in metres however large it is."""
    shapes = shapes_of(stage)
    up = guessed_up(shapes, metres is not None)
    axis = "xyz".index(up.up[-1])
    if metres is None:
        guess = guessed_unit_of(shapes, axis)
        unit = UnitFound(
            unit=guess.unit, metres=guess.metres, reason=guess.reason, stated=False, doubtful=guess.doubtful
        )
    else:
        unit = _stated(metres, shapes, axis) if not land else _of_land(metres)
    low, high = shapes.low.min(0), shapes.high.max(0)
    lines = outline(stage) - low
    return ArrivalSheet(
        name=name, unit=unit, up=UpFound(up=up.up, reason=up.reason, doubtful=up.doubtful), low=_point(low), high=_point(high),  # type: ignore[arg-type]
        frame=_corners(frame_of(shapes.low, shapes.high)), far=_far(low, high, unit.metres), objects=len({i.name for i in stage.instances}),
        triangles=sum(len(stage.meshes[i.mesh].triangles) for i in stage.instances), memory_bytes=_memory(stage),
        layers=list(stage.layers), materials=_used(stage),
        doubts=[DoubtFound(kind=d.kind, text=d.text, about=d.about, box=d.box) for d in doubts_of(stage)],
        lines=[tuple(row) for row in np.round(lines.reshape(-1, 6), _decimals(high - low)).tolist()],
        cameras=list(stage.offers.cameras), lights=list(stage.offers.lights), site=stage.offers.site,
        compared=None if before is None else compared(before, stage, dressed),
    )  # fmt: skip


def placed(
    sheet: ArrivalSheet, key: str, asset: str, metres: float, up: UpAxis, turn_deg: float, to_middle: bool
) -> Placement:
    """The thing as it stands on the stage: its unit and axis as chosen, turned, and taken to the middle where that is wanted."""
    thing = Placement(key=key, name=sheet.name[:80], asset=asset, scale=metres, up=up, turn_deg=turn_deg)
    if not to_middle or sheet.far is None:
        return thing
    matrix = matrix_of(thing)
    foot = np.asarray(sheet.far) if matrix is None else matrix[:3, :3] @ sheet.far
    x, y, z = np.round(-foot, 6).tolist()
    return thing.model_copy(update={"position": (x, y, z)})


def compared(before: StageData, after: StageData, dressed: tuple[str, ...]) -> Compared:
    """What of a model is new and gone, and which of the materials that were dressed it no longer has."""
    old, new = {i.name for i in before.instances}, {i.name for i in after.instances}
    names = {m.name for m in after.materials}
    free = names - {m.name for m in before.materials}  # what stood there before under its own name is not another's
    lost = [
        MaterialLost(name=name, likely=_likeliest(name, before, after, free)) for name in dressed if name not in names
    ]
    return Compared(new=sorted(new - old)[:500], gone=sorted(old - new)[:500], kept=len(old & new), lost=lost)


def _likeliest(name: str, before: StageData, after: StageData, free: set[str]) -> str | None:
    """The new material most like a lost one, by name first and then by colour; None where none is alike."""
    colours = {m.name: np.array(m.base) for m in before.materials}
    best, score = None, ALIKE
    for material in after.materials:
        if material.name not in free:
            continue
        alike = SequenceMatcher(None, _plain(name), _plain(material.name)).ratio()
        if name in colours:
            alike += 0.15 * (1.0 - float(np.abs(np.array(material.base) - colours[name]).max()))
        if alike > score:
            best, score = material.name, alike
    return best


def _plain(name: str) -> str:
    return "".join(c for c in name.lower() if c.isalpha()) or name.lower()


def _of_land(metres: float) -> UnitFound:
    """Land is larger than any building, and is in metres all the same."""
    return UnitFound(unit="m", metres=metres, reason="Heights of land are read in metres.", stated=True, doubtful=False)


def _stated(metres: float, shapes: Shapes, axis: int) -> UnitFound:
    """The unit as the file states it, unless what it holds speaks against it."""
    name = next((unit for unit, m in UNITS.items() if abs(m / metres - 1) < 1e-6), f"{metres:g} m")
    guess = guessed_unit_of(shapes, axis)
    if guess.doubtful and abs(guess.metres / metres - 1) > 1e-6:
        reason = f"The file says {name}; but {guess.reason[:1].lower()}{guess.reason[1:]}"
        return UnitFound(unit=guess.unit, metres=guess.metres, reason=reason, stated=True, doubtful=True)
    return UnitFound(unit=name, metres=metres, reason=f"The file says {name}.", stated=True, doubtful=False)


def _far(low: np.ndarray, high: np.ndarray, metres: float) -> Place | None:
    middle = (low + high) / 2
    middle[2] = low[2]
    away = float(np.abs(middle).max()) * metres
    size = float((high - low).max()) * metres
    return _point(middle) if away > FAR_M and away > FAR_SIZES * size else None


def _corners(box: tuple[np.ndarray, np.ndarray]) -> tuple[Place, Place]:
    return _point(box[0]), _point(box[1])


def _used(stage: StageData) -> list[str]:
    numbers = {int(k) for i in {i.mesh for i in stage.instances} for k in np.unique(stage.meshes[i].material)}
    return sorted({stage.materials[k].name for k in numbers})


def _memory(stage: StageData) -> int:
    unique = sum(len(m.triangles) for m in stage.meshes)
    pixels = sum(t.pixels.shape[0] * t.pixels.shape[1] for t in stage.textures)
    return unique * TRIANGLE_BYTES + pixels * PIXEL_BYTES


def _decimals(size: np.ndarray) -> int:
    return int(np.clip(4 - np.floor(np.log10(max(float(size.max()), 1e-9))), 0, 9))


def _point(values: np.ndarray) -> Place:
    x, y, z = (float(v) for v in values)
    return x, y, z
