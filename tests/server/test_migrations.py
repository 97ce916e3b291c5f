"""Databases of every earlier version come up to today's with all that is in them. `versions/` holds one of each, as it was written then."""

from __future__ import annotations

import subprocess
from pathlib import Path
from urllib.parse import parse_qs, urlparse

import pytest

from tests import small
from valleylight.core.project.surface import Laying, Surface
from valleylight.server.store import edits, jobs, migrations, storage, tables
from valleylight.server.store.mariadb import PrivateMariaDB
from valleylight.server.store.migrations import STEPS, migrate
from valleylight.server.store.tables import EditRow, JobRow, PlateRow, ProjectRow, SettingsRow
from valleylight.server.web.routes.plates import shown

VERSIONS = sorted(Path(__file__).with_name("versions").glob("v*.sql"), key=lambda dump: int(dump.stem[1:]))


@pytest.fixture
def at_version(database_server):
    """Connects to a new database with a dump in it."""
    pools = []

    def made(dump: Path | None) -> None:
        name = f"migrated_{dump.stem if dump else 'new'}"
        url = PrivateMariaDB(database_server.folder, name).start()
        socket = parse_qs(urlparse(url).query)["unix_socket"][0]
        client = ["mariadb", "--no-defaults", f"--socket={socket}"]
        subprocess.run(
            [*client, "-e", f"DROP DATABASE {name}; CREATE DATABASE {name} CHARACTER SET utf8mb4"], check=True
        )
        if dump is not None:
            subprocess.run([*client, name], input=b"SET foreign_key_checks = 0;\n" + dump.read_bytes(), check=True)
        pools.append(tables.connect(url))
        pools[-1].connect()

    yield made
    for pool in pools:
        pool.close_all()


def columns() -> dict[str, list[tuple]]:
    """Every column of the database, as the server describes it, in an order of its own."""
    found = tables.database.execute_sql(
        "SELECT table_name, column_name, column_type, is_nullable, column_key FROM information_schema.columns "
        "WHERE table_schema = DATABASE() ORDER BY table_name, column_name"
    ).fetchall()
    by_table: dict[str, list[tuple]] = {}
    for table, *column in found:
        by_table.setdefault(table, []).append(tuple(column))
    return by_table


def test_there_is_a_database_of_every_earlier_version():
    """A new step brings one along, dumped by the program before it (mariadb-dump --compact)."""
    assert [int(v.stem[1:]) for v in VERSIONS] == [1, 2, 3, 4, 5, 7, 8, 9, 10, 11]  # 6 was not released apart
    assert len(STEPS) == 12


@pytest.mark.parametrize("dump", VERSIONS, ids=lambda p: p.stem)
def test_all_that_was_kept_is_still_there(dump, at_version):
    version = int(dump.stem[1:])
    at_version(dump)
    assert migrate(tables.database) == [name for name, _ in STEPS[version:]]
    assert migrate(tables.database) == []
    row = ProjectRow.get()
    assert (row.slug, row.away) == ("small-room", None)
    assert row.place > 0 and row.changed >= row.created
    now = storage.description(row)
    assert now.site == small.project().description.site
    assert [len(p) for p in (now.views, now.occasions, now.kinds, now.fixtures, now.looks)] == [2, 2, 2, 2, 1]
    assert now.placements == small.project().description.placements
    # Steps of undo that put models on or off speak of nothing that is there now.
    assert [e.label for e in EditRow.select()] == (["Hour"] if version < 7 else ["Hour", "White card"])
    assert "models" not in str([e.changes for e in EditRow.select()])
    plates = list(PlateRow.select().order_by(PlateRow.id))
    assert [(p.view_key, p.occasion_key, p.picture is None) for p in plates] == [
        ("inside", "noon", False), ("outside", "noon", False), ("inside", "night", True),
    ]  # fmt: skip
    assert SettingsRow.select().count() == 1  # all three were made from one description
    assert storage.plate_description(plates[0].settings_id) == now
    for plate in plates:
        told = shown(plate, JobRow.get(JobRow.plate == plate), now)
        assert told.changed == []
        assert told.look == now.looks[0]
        assert (told.ev100, told.width, told.samples) == (10.5, 640, 6)
    [left] = jobs.forsaken("anybody")
    assert (left.plate_id, left.samples_done) == (plates[2].id, 3)


def test_an_old_database_ends_like_a_new_one(at_version):
    at_version(None)
    migrate(tables.database)
    fresh = columns()
    tables.database.close_all()
    for dump in VERSIONS:
        at_version(dump)
        migrate(tables.database)
        assert columns() == fresh, dump.stem
        tables.database.close_all()


def test_a_step_that_broke_off_is_done_again(at_version, monkeypatch):
    """The program dies amid a step: the next start takes it up, and nothing was lost."""
    at_version(next(v for v in VERSIONS if v.stem == "v5"))
    keep, seen = storage.keep_raw_settings, []

    def breaks(raw):
        seen.append(raw)
        if len(seen) == 2:
            raise KeyboardInterrupt
        return keep(raw)

    monkeypatch.setattr(migrations.storage, "keep_raw_settings", breaks)
    with pytest.raises(KeyboardInterrupt):
        migrate(tables.database)
    monkeypatch.undo()
    assert migrate(tables.database) == [name for name, _ in STEPS[5:]]
    assert [storage.plate_description(p.settings_id) for p in PlateRow.select()] == [small.project().description] * 3


def test_half_placed_models_are_placed_once(at_version, monkeypatch):
    """The step that makes rows of models dies before it has cut them from the stage."""
    at_version(next(v for v in VERSIONS if v.stem == "v7"))
    monkeypatch.setattr(migrations, "_without_models", lambda step: 1 / 0)
    with pytest.raises(ZeroDivisionError):
        migrate(tables.database)
    monkeypatch.undo()
    assert migrate(tables.database) == [name for name, _ in STEPS[7:]]
    assert storage.description(ProjectRow.get()).placements == small.project().description.placements
    redone = edits.redo("small-room")
    assert storage.description(redone).stage.white_card


def test_pictures_that_lay_from_three_sides_still_do(at_version):
    """Surfaces of the stage, of its settings and of the steps of undo, which said so in a number of their own."""
    at_version(next(v for v in VERSIONS if v.stem == "v8"))
    row = ProjectRow.get()
    oak = {"base": [0.2, 0.3, 0.4], "triplanar_m": 0.5}
    ProjectRow.update(stage={**row.stage, "surfaces": {"oak": oak, "plaster": {"triplanar_m": None}}}).execute()
    undone = EditRow.select().order_by(EditRow.id.desc()).get()
    steps = [
        {
            **step,
            "before": {**step["before"], "surfaces": {"oak": oak}},
            "after": {**step["after"], "surfaces": {"oak": oak}},
        }
        for step in undone.changes
    ]
    EditRow.update(changes=steps).where(EditRow.id == undone.id).execute()
    migrate(tables.database)
    now = storage.description(ProjectRow.get()).stage.surfaces
    assert now["oak"] == Surface(base=(0.2, 0.3, 0.4), laying=Laying(by="sides", tile_m=0.5))
    assert now["plaster"] == Surface()
    assert storage.description(edits.redo("small-room")).stage.surfaces["oak"] == now["oak"]


def test_a_later_version_is_refused_and_left_alone(at_version):
    at_version(VERSIONS[-1])
    tables.database.execute_sql("INSERT INTO schema_version (number, name) VALUES (%s, 'later')", (len(STEPS) + 1,))
    before = columns()
    with pytest.raises(migrations.InputError, match="newer Valleylight"):
        migrate(tables.database)
    assert columns() == before
