"""Numbered migrations, run at start. A step once released is never changed; a new one is added."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

from peewee import CharField, Database, IntegerField, Model
from playhouse.migrate import MySQLMigrator
from playhouse.migrate import migrate as playhouse_migrate

from valleylight.core.errors import InputError
from valleylight.core.project.earlier import upgraded, with_laying
from valleylight.server.store import storage, tables


def _first_tables(database: Database) -> None:
    database.create_tables(tables.ALL, safe=True)


def _scenes(database: Database) -> None:
    database.create_tables([tables.SceneRow], safe=True)


def _catalogue(database: Database) -> None:
    database.create_tables([tables.ProfileRow], safe=True)


def _hands(database: Database) -> None:
    """Who touched what; names, order and putting away of plates and projects. Dates of what stood before are kept."""
    database.create_tables([tables.TouchRow], safe=True)
    add_missing(database, tables.ProjectRow, "place", "away", "changed")
    add_missing(database, tables.PlateRow, "name", "rank", "put_away")
    project = tables.ProjectRow
    project.update(changed=project.created, place=project.id).where(project.place == 0).execute()


def _stops(database: Database) -> None:
    """That a plate is to stop is written down before it is acknowledged."""
    add_missing(database, tables.JobRow, "stop_asked")


def _settings_by_hash(database: Database) -> None:
    """Plates share the descriptions they were made from; the look of each is in there."""
    database.create_tables([tables.SettingsRow], safe=True)
    add_missing(database, tables.PlateRow, "settings")
    if "snapshot" not in _columns(database, tables.PlateRow):
        return
    for number, text in database.execute_sql("SELECT id, snapshot FROM plate WHERE settings IS NULL").fetchall():
        tables.PlateRow.update(settings=storage.keep_raw_settings(json.loads(text))).where(
            tables.PlateRow.id == number
        ).execute()
    migrator = MySQLMigrator(database)
    playhouse_migrate(*(migrator.drop_column("plate", name, cascade=False) for name in ("snapshot", "look")))


def _leases(database: Database) -> None:
    add_missing(database, tables.JobRow, "holder", "held_until")


def _placements(database: Database) -> None:
    """Models of a stage become things placed on it, each a row. Steps of undo that put models on or off are forgotten: nothing
    they speak of stands there any more."""
    database.create_tables([tables.PlacementRow, tables.LayerRow], safe=True)
    with database.atomic():
        for row in tables.ProjectRow.select().for_update():
            if "models" not in row.stage:
                continue
            now = upgraded({"stage": row.stage})
            for place, placement in enumerate(now["placements"]):
                storage.insert_part("placement", row, place, placement)
            tables.ProjectRow.update(stage=now["stage"]).where(tables.ProjectRow.id == row.id).execute()
        for edit in tables.EditRow.select():
            kept = [_without_models(step) for step in edit.changes if not _moves_models(step)]
            if not kept:
                edit.delete_instance()
            elif kept != edit.changes:
                tables.EditRow.update(changes=kept).where(tables.EditRow.id == edit.id).execute()


def _own(database: Database) -> None:
    """A table for what the artist keeps in the catalogue; surfaces say otherwise how pictures lie on them."""
    database.create_tables([tables.OwnRow], safe=True)
    with database.atomic():
        for row in tables.ProjectRow.select().for_update():
            if (stage := with_laying(row.stage)) != row.stage:
                tables.ProjectRow.update(stage=stage).where(tables.ProjectRow.id == row.id).execute()
        for edit in tables.EditRow.select():
            if (changes := with_laying(edit.changes)) != edit.changes:
                tables.EditRow.update(changes=changes).where(tables.EditRow.id == edit.id).execute()


def _notes(database: Database) -> None:
    """Plates have notes and stars, and the queue an order by hand."""
    add_missing(database, tables.PlateRow, "note", "starred")
    add_missing(database, tables.JobRow, "rank")


def _cutouts(database: Database) -> None:
    """A table for the cut-outs of projects."""
    database.create_tables([tables.CutOutRow], safe=True)


def _sequences(database: Database) -> None:
    """Tables for the sequences of projects and for their making."""
    database.create_tables([tables.SequenceRow, tables.RunRow], safe=True)


def _moves_models(step: dict[str, Any]) -> bool:
    stages = [step.get(side) or {} for side in ("before", "after")]
    return step["part"] == "stage" and stages[0].get("models") != stages[1].get("models")


def _without_models(step: dict[str, Any]) -> dict[str, Any]:
    if step["part"] != "stage":
        return step
    return {**step, **{side: {k: v for k, v in step[side].items() if k != "models"} for side in ("before", "after")}}


def _columns(database: Database, table: type[Model]) -> set[str]:
    return {column.name for column in database.get_columns(table._meta.table_name)}


def add_missing(database: Database, table: type[Model], *fields: str) -> None:
    """Add the columns of a table that an older database lacks."""
    there = _columns(database, table)
    migrator = MySQLMigrator(database)
    playhouse_migrate(*(
        migrator.add_column(table._meta.table_name, name, table._meta.fields[name]) for name in fields if name not in there
    ))  # fmt: skip


STEPS: list[tuple[str, Callable[[Database], None]]] = [
    ("first tables", _first_tables), ("scenes", _scenes), ("catalogue of profiles", _catalogue),
    ("several hands, names and order", _hands), ("stops are written down", _stops),
    ("settings of plates by their hash", _settings_by_hash), ("leases of jobs", _leases),
    ("things placed on the stage", _placements), ("catalogue of one's own", _own), ("notes and stars of plates, order of the queue", _notes),
    ("cut-outs", _cutouts), ("sequences", _sequences),
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
