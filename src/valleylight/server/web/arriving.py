"""A model that was read and looked at becomes part of a project: one edit of all that is taken of it."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any

from valleylight.core.errors import InputError
from valleylight.core.lamps.offered import FixtureOffer, as_fixture
from valleylight.core.photometry import write_lm63
from valleylight.core.project.changes import Change
from valleylight.core.project.description import Fixture, Layer, Placement, Project, find
from valleylight.core.project.keys import free_name, key_for
from valleylight.core.stage.arrival import ArrivalSheet, placed
from valleylight.core.stage.arrival.lenses import as_view
from valleylight.core.stage.assembly import matrix_of
from valleylight.core.sun.gazetteer import time_zone_near
from valleylight.server.store.edits import Edit
from valleylight.server.store.files import FileStore
from valleylight.server.web import catalogue
from valleylight.server.web.profiles import new_kind, plain_body, read_kept
from valleylight.server.web.schemas.stage import ArrivalChoices

#: Layers of one model that become the project's; further ones go by their own names. And how long a name may be.
MOST_LAYERS, LONGEST_LAYER = 500, 200


@dataclass(frozen=True)
class Lights:
    """Fixtures to be made of the lights that were chosen, with the kept profile of each."""

    fixtures: list[tuple[FixtureOffer, str]] = field(default_factory=list)


def kept_lights(sheet: ArrivalSheet, placement: Placement, wanted: list[int], files: FileStore) -> Lights:
    """Keep the profiles of the lights that are taken. Raises InputError for one that is not offered."""
    out = []
    for number in wanted:
        if number >= len(sheet.lights):
            raise InputError(f"the file offers no light {number}", "lights", "Load the arrival sheet again")
        made = as_fixture(sheet.lights[number], matrix_of(placement))
        if made is not None:
            line = catalogue.take(files, write_lm63(made.profile).encode(), f"{made.profile.name}.ies")
            out.append((made, line.sha256))
    return Lights(out)


def stood(sheet: ArrivalSheet, model: str, choices: ArrivalChoices, key: str) -> Placement:
    """The thing as it is chosen to stand."""
    return placed(sheet, key, model, choices.metres, choices.up, choices.turn_deg, choices.to_middle)


def proposal(sheet: ArrivalSheet) -> ArrivalChoices:
    """What is taken at one click."""
    return ArrivalChoices(metres=sheet.unit.metres, up=sheet.up.up, to_middle=sheet.far is not None)


def edit_for(project: Project, sheet: ArrivalSheet, model: str, choices: ArrivalChoices, replace: str | None, lights: Lights,
             files: FileStore) -> Edit:  # fmt: skip
    """One edit that puts the model on the stage, with all that was chosen. Raises InputError for a file that stands there already."""
    twin = next((p for p in project.placements if p.asset == model and p.key != replace), None)
    if twin is not None:
        raise InputError(
            f'the same file stands on the stage already, as "{twin.name}"', sheet.name,
            "Nothing was changed; take that one away first, or choose another file",
        )  # fmt: skip
    if replace is None:
        thing = stood(sheet, model, choices, key_for(sheet.name, {p.key for p in project.placements}, "model"))
    else:
        old = find(project.placements, replace, "thing on the stage")
        thing = stood(sheet, model, choices, old.key)
        # Where it stands was set for the one before, and the new one is to stand there.
        kept: dict[str, Any] = {"position": old.position, "turn_deg": old.turn_deg, "up": old.up, "layer": old.layer}
        thing = thing.model_copy(update=kept if choices.as_before else {"layer": old.layer})
        if choices.as_before and old.scale != 1.0:
            thing = thing.model_copy(update={"scale": old.scale})
    changes = [Change(part="placement", key=thing.key, value=thing.model_dump(mode="json"))]
    changes += _new_layers(project, sheet.layers)
    changes += _views(project, sheet, thing, choices.cameras)
    changes += _fixtures(project, lights, files)
    changes += _site(project, sheet, choices)
    changes += _dressed_anew(project, choices.renamed)
    label = f"{'Add' if replace is None else 'Replace'} model {sheet.name}"[:120]
    return Edit(label=label, changes=changes)


def _new_layers(project: Project, names: list[str]) -> list[Change]:
    """Layers of a model that the project does not have yet."""
    taken = {layer.key for layer in project.layers}
    known = {layer.in_models for layer in project.layers}
    changes = []
    for name in names[:MOST_LAYERS]:
        if name not in known and 0 < len(name) <= LONGEST_LAYER and name.strip():
            key = key_for(name, taken, "layer")
            taken.add(key)
            layer = Layer(key=key, name=name.strip()[:80], in_models=name)
            changes.append(Change(part="layer", key=key, value=layer.model_dump(mode="json")))
    return changes


def _views(project: Project, sheet: ArrivalSheet, thing: Placement, wanted: list[int]) -> list[Change]:
    taken, names = {v.key for v in project.views}, {v.name for v in project.views}
    changes = []
    for number in wanted:
        if number >= len(sheet.cameras):
            raise InputError(f"the file offers no camera {number}", "cameras", "Load the arrival sheet again")
        camera = sheet.cameras[number]
        name = camera.name if camera.name not in names else free_name(camera.name, names)
        view = as_view(camera, key_for(name, taken, "view"), name, matrix_of(thing))
        taken.add(view.key)
        names.add(name)
        changes.append(Change(part="view", key=view.key, value=view.model_dump(mode="json")))
    return changes


def _fixtures(project: Project, lights: Lights, files: FileStore) -> list[Change]:
    changes: list[Change] = []
    kinds: dict[tuple[str, str | None], str] = {}
    names = {kind.key for kind in project.kinds}
    taken = {fixture.key for fixture in project.fixtures}
    for offer, profile in lights.fixtures:
        which = (profile, offer.rgb)
        if which not in kinds:
            details = {"body": plain_body(read_kept(files.read(profile))), "rgb": offer.rgb}
            kind = new_kind(project, offer.profile.name, profile, **details)
            kind = kind.model_copy(update={"key": key_for(kind.name, names, "fixture")})
            names.add(kind.key)
            kinds[which] = kind.key
            changes.append(Change(part="kind", key=kind.key, value=kind.model_dump(mode="json")))
        fixture = Fixture(
            key=key_for(offer.name, taken, "fixture"), kind=kinds[which], group="From the model",
            position=offer.position, aim=offer.aim,
        )  # fmt: skip
        taken.add(fixture.key)
        changes.append(Change(part="fixture", key=fixture.key, value=fixture.model_dump(mode="json")))
    return changes


def _site(project: Project, sheet: ArrivalSheet, choices: ArrivalChoices) -> list[Change]:
    site = project.site.model_dump(mode="json")
    before = dict(site)
    if choices.site and sheet.site is not None:
        told = sheet.site
        if told.latitude_deg is not None and told.longitude_deg is not None:
            site |= {"latitude_deg": told.latitude_deg, "longitude_deg": told.longitude_deg}
            site["time_zone"] = time_zone_near(told.latitude_deg, told.longitude_deg) or site["time_zone"]
        if told.place:
            site["place"] = told.place
        if told.elevation_m is not None:
            site["elevation_m"] = told.elevation_m
    if choices.north_deg is not None:
        site["north_deg"] = round(math.remainder(choices.north_deg, 360.0), 3)
    return [Change(part="site", value=site)] if site != before else []


def _dressed_anew(project: Project, renamed: dict[str, str]) -> list[Change]:
    """Surfaces that go on under the new names of their materials."""
    changes = []
    for old, new in renamed.items():
        surface = project.stage.surfaces.get(old)
        if surface is not None and new != old:
            changes.append(Change(part="stage", at=["surfaces", new], value=surface.model_dump(mode="json")))
            changes.append(Change(part="stage", at=["surfaces", old], away=True))
    return changes
