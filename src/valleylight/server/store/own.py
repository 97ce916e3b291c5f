"""What the artist keeps in the catalogue, for all projects: surfaces, objects and cut-outs of files of one's own."""

from __future__ import annotations

from typing import Any, Literal

from peewee import IntegrityError

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.project.keys import free_name
from valleylight.server.store.tables import OwnRow

Kind = Literal["surface", "object", "cutout"]
#: So many of a kind are kept.
MOST = 2000


def every(kind: Kind) -> list[OwnRow]:
    """All of a kind, by name."""
    return list(OwnRow.select().where(OwnRow.kind == kind).order_by(OwnRow.name, OwnRow.id))


def find(kind: Kind, number: int) -> OwnRow:
    """One of a kind by number. Raises NotFoundError for another."""
    row = OwnRow.get_or_none(OwnRow.kind == kind, OwnRow.id == number)
    if row is None:
        raise NotFoundError(f"there is no {kind} {number} of your own", kind, "Choose one of the catalogue")
    return row


def keep(kind: Kind, name: str, data: dict[str, Any]) -> OwnRow:
    """Keep something under a name; where there is one of that name, under the next free one. Raises InputError when there are too many."""
    names = {row.name for row in OwnRow.select(OwnRow.name).where(OwnRow.kind == kind)}
    if len(names) >= MOST:
        raise InputError(f"there are {MOST} in the catalogue", kind, "Take some away first")
    lower = {known.lower() for known in names}
    wanted = name if name.lower() not in lower else free_name(name, names)
    try:
        return OwnRow.create(kind=kind, name=wanted[:80], data=data)
    except IntegrityError:
        raise InputError(f"there is a {kind} of the name {wanted!r}", "name", "Choose another name") from None


def change(kind: Kind, number: int, name: str, data: dict[str, Any] | None = None) -> OwnRow:
    """Give one another name, or other contents. Raises InputError for a name that is taken."""
    row = find(kind, number)
    row.name = name
    if data is not None:
        row.data = data
    try:
        row.save()
    except IntegrityError:
        raise InputError(f"there is a {kind} of the name {name!r}", "name", "Choose another name") from None
    return row


def put_away(kind: Kind, number: int) -> None:
    """Take one out of the catalogue; what was made of it stays."""
    find(kind, number).delete_instance()
