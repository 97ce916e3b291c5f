"""Lamps of the catalogue and the fixtures within them: made, and made anew, with the things that hold them."""

from __future__ import annotations

from valleylight.core.errors import NotFoundError
from valleylight.core.lamps.within import BULB_KELVIN, bulb_profile, place_of_bulb
from valleylight.core.objects import family_of
from valleylight.core.photometry import write_lm63
from valleylight.core.project.changes import Change
from valleylight.core.project.description import Fixture, Placement, Point, Project
from valleylight.core.project.keys import key_for
from valleylight.server.web import catalogue
from valleylight.server.web.context import Context
from valleylight.server.web.profiles import new_kind

#: The group of fixtures that lamps of the catalogue join.
GROUP = "Lamps"


def bulb(here: Context, family: str) -> str | None:
    """The kept profile of the bulb that members of a family hold; None for those that hold none."""
    if not _holds(family):
        return None
    return catalogue.take(here.files, write_lm63(bulb_profile()).encode(), "opal-bulb.ies").sha256


def lit(
    project: Project, thing: Placement, profile: str | None, taken: set[str] | None = None
) -> tuple[Placement, list[Change]]:
    """A thing with a fixture within it, where its family holds a bulb, and the changes that make that fixture and its kind. Keys of
    other fixtures in the making are `taken`, and its own is put there."""
    if profile is None or thing.made is None:
        return thing, []
    changes: list[Change] = []
    kind = next((k for k in project.kinds if k.profile == profile and k.body == "bulb"), None)
    if kind is None:
        kind = new_kind(project, "Opal bulb", profile, body="bulb", kelvin=BULB_KELVIN, mounting="table")
        changes.append(Change(part="kind", key=kind.key, value=kind.model_dump(mode="json")))
    position, aim = _bulb_at(thing)
    key = key_for(thing.name, {f.key for f in project.fixtures} | (taken or set()), "lamp")
    if taken is not None:
        taken.add(key)
    lumens = thing.made.parameters.get("lumens", 0.0)
    fixture = Fixture(
        key=key, kind=kind.key, group=GROUP, position=position, aim=aim, lumens=lumens or None, on=lumens > 0
    )
    changes.append(Change(part="fixture", key=key, value=fixture.model_dump(mode="json")))
    return thing.model_copy(update={"lamp": key}), changes


def lit_anew(project: Project, thing: Placement, profile: str | None, taken: set[str]) -> list[Change]:
    """The changes to the fixture within a thing that is made anew: another flux and place, one where there was none, none where its
    new family holds no bulb. What was set of it by hand otherwise stays."""
    fixture = next((f for f in project.fixtures if f.key == thing.lamp), None)
    if profile is None:
        let_go = [Change(part="fixture", key=fixture.key)] if fixture else []
        return [*let_go, *_linked(thing, None)] if thing.lamp else []
    if fixture is None:
        made, changes = lit(project, thing, profile, taken)
        return [*changes, *_linked(thing, made.lamp)]
    position, aim = _bulb_at(thing)
    lumens = thing.made.parameters.get("lumens", 0.0) if thing.made else 0.0
    fields = {"position": position, "aim": aim, "lumens": lumens or None, "on": lumens > 0}
    return [Change(part="fixture", key=fixture.key, at=[field], value=value) for field, value in fields.items()]


def _linked(thing: Placement, lamp: str | None) -> list[Change]:
    return [Change(part="placement", key=thing.key, at=["lamp"], value=lamp)]


def _holds(family: str) -> bool:
    try:
        return family_of(family).lamp is not None
    except NotFoundError:  # an object of one's own
        return False


def _bulb_at(thing: Placement) -> tuple[Point, Point]:
    assert thing.made is not None
    family = family_of(thing.made.family)
    assert family.lamp is not None
    return place_of_bulb(thing, family.lamp(family.values(thing.made.parameters)))
