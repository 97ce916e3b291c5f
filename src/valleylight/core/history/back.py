"""The settings of a plate as changes of its project: over what is there now, or beside it as a state of its own."""

from __future__ import annotations

from collections.abc import Sequence

from valleylight.core.project.changes import LISTS, Change, PartName
from valleylight.core.project.description import Look, Project
from valleylight.core.project.keys import LONGEST_NAME, free_key, free_name

#: What a picture shows beside its view, occasion and look.
SHOWN: tuple[PartName, ...] = ("layer", "placement", "kind", "fixture")


def over_now(now: Project, then: Project, view: str, occasion: str) -> list[Change]:
    """Changes that bring a picture's settings back: stage, fixtures, its view, occasion and look. Lenses and looks of other cells stay as
    they are: a look that has been changed since comes back as one of its own."""
    changes: list[Change] = []
    if now.site != then.site:
        changes.append(Change(part="site", value=then.site.model_dump(mode="json")))
    if now.stage != then.stage:
        changes.append(Change(part="stage", value=then.stage.model_dump(mode="json")))
    for part in SHOWN:
        changes += _list_back(part, getattr(now, LISTS[part]), getattr(then, LISTS[part]))
    # Cut-outs of other views stay as they are.
    cutouts = (tuple(c for c in p.cutouts if c.view == view) for p in (now, then))
    changes += _list_back("cutout", *cutouts)
    was, moment = then.view(view), then.occasion(occasion)
    look = then.look_for(was, moment)
    key, more = _look(now, look)
    there = next((v for v in now.views if v.key == view), None)
    lens_at = {} if there is None else there.lens_at
    look_at = {} if there is None else there.look_at
    back = was.model_copy(update={
        "lens": was.lens if there is None else there.lens,
        "lens_at": {**lens_at, occasion: was.lens_for(occasion)}, "look_at": {**look_at, occasion: key},
        "name": was.name if there is None else there.name,
    })  # fmt: skip
    named = next((o.name for o in now.occasions if o.key == occasion), moment.name)
    changes += more
    changes.append(
        Change(part="occasion", key=occasion, value=moment.model_copy(update={"name": named}).model_dump(mode="json"))
    )
    changes.append(Change(part="view", key=view, value=back.model_dump(mode="json")))
    return changes


def beside_now(now: Project, then: Project, view: str, occasion: str, name: str) -> tuple[str, str, list[Change]]:
    """Keys of a new view and a new occasion that hold a picture's lens, hour, weather and look, and the changes that make them; stage and
    fixtures are those of now."""
    was, moment = then.view(view), then.occasion(occasion)
    key, more = _look(now, then.look_for(was, moment))
    new_view = free_key(was.key, {v.key for v in now.views})
    new_occasion = free_key(moment.key, {o.key for o in now.occasions})
    lens = was.lens_for(occasion)
    made = was.model_copy(update={
        "key": new_view, "name": _name(f"{was.name}, {name}", {v.name for v in now.views}), "lens": lens,
        "lens_at": {new_occasion: lens}, "look_at": {new_occasion: key},
    })  # fmt: skip
    at = moment.model_copy(
        update={"key": new_occasion, "name": _name(f"{moment.name}, {name}", {o.name for o in now.occasions})}
    )
    changes = [
        *more, Change(part="occasion", key=new_occasion, value=at.model_dump(mode="json")),
        Change(part="view", key=new_view, value=made.model_dump(mode="json")),
    ]  # fmt: skip
    return new_view, new_occasion, changes


def _list_back(part: PartName, now: Sequence[object], then: Sequence[object]) -> list[Change]:
    here, there = ({str(getattr(i, "key")): i for i in items} for items in (now, then))  # noqa: B009
    gone = [Change(part=part, key=key, value=None) for key in here if key not in there]
    left = [key for key in here if key in there] + [key for key in there if key not in here]
    moved = left != list(there)
    back = [
        Change(part=part, key=key, value=item.model_dump(mode="json"), place=place if moved else None)  # type: ignore[attr-defined]
        if here.get(key) != item
        else Change(part=part, key=key, place=place)
        for place, (key, item) in enumerate(there.items())
        if moved or here.get(key) != item
    ]
    return [*gone, *back]


def _look(now: Project, then: Look) -> tuple[str, list[Change]]:
    """The key of a look of now that does the same, and the change that makes one where there is none."""
    for look in now.looks:
        if look.treatments == then.treatments and (look.key == then.key or look.name == then.name):
            return look.key, []
    taken = {look.key for look in now.looks}
    key = then.key if then.key not in taken else free_key(then.key, taken)
    name = _name(then.name, {look.name for look in now.looks})
    return key, [
        Change(part="look", key=key, value=then.model_copy(update={"key": key, "name": name}).model_dump(mode="json"))
    ]


def _name(name: str, taken: set[str]) -> str:
    short = name[:LONGEST_NAME].rstrip(" ,")
    return short if short not in taken else free_name(short, taken)
