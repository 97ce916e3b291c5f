"""Numbered migrations, run at start. A step once released is never changed; a new one is added."""

from __future__ import annotations

from collections.abc import Callable

from peewee import CharField, Database, IntegerField, Model

from valleylight.core.errors import InputError
from valleylight.server import tables


def _first_tables(database: Database) -> None:
    database.create_tables(tables.ALL, safe=True)


def _scenes(database: Database) -> None:
    database.create_tables([tables.SceneRow], safe=True)


def _catalogue(database: Database) -> None:
    database.create_tables([tables.ProfileRow], safe=True)


STEPS: list[tuple[str, Callable[[Database], None]]] = [
    ("first tables", _first_tables), ("scenes", _scenes), ("catalogue of profiles", _catalogue)
]  # fmt: skip


def migrate(database: Database) -> list[str]:
    """Run the steps not yet run, in order; returns their names. Raises InputError for a database of a later version."""

    class Version(Model):  # type: ignore[misc]
        number = IntegerField(primary_key=True)
        name = CharField(80)

        class Meta:
            table_name = "schema_version"

    Version.bind(database)
    database.create_tables([Version], safe=True)
    done = {row.number for row in Version.select()}
    if done and max(done) > len(STEPS):
        raise InputError(
            f"the database is at version {max(done)}, this program knows {len(STEPS)}", "database",
            "Start the newer Valleylight that wrote it",
        )  # fmt: skip
    ran = []
    for number, (name, step) in enumerate(STEPS, 1):
        if number not in done:
            step(database)
            Version.create(number=number, name=name)
            ran.append(name)
    return ran
