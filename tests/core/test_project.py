"""The description's checks, and the archive."""

from __future__ import annotations

import zipfile

import pytest
from pydantic import ValidationError

from tests import small
from valleylight.core import project as projects
from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.project import Fixture, Lens, Occasion, Project, Site, View


@pytest.mark.parametrize(
    ("make", "message"),
    [
        (lambda: Project(name="   "), "at least 1 character"),
        (lambda: Lens(f_number=0), "greater than or equal to 0.7"),
        (lambda: Lens(shutter_s=0), "greater than or equal"),
        (lambda: View(key="v", name="v", position=(0, 0, 0), target=(0, 0, 0)), "same point"),
        (lambda: View(key="v", name="v", position=(0, 0, 0), target=(0, 0, 5)), "let the verticals go"),
        (lambda: View(key="v", name="v", position=(0, 0, float("nan")), target=(0, 1, 5)), "finite"),
        (lambda: Occasion(key="o", name="o", when="2201-01-01T10:00"), "1900 to 2100"),
        (lambda: Site(time_zone="Mars/Base"), "IANA"),
        (lambda: Fixture(key="f", kind="k", position=(0, 0, 1), aim=(0, 0, 1)), "move the aim"),
        (lambda: Fixture(key="f", kind="k", group="Sky", position=(0, 0, 1), aim=(0, 0, 0)), "another group name"),
        (lambda: Project(name="p", fixtures=(Fixture(key="f", kind="k", position=(0, 0, 1), aim=(0, 0, 0)),)), "unknown kind"),
        (lambda: Project(name="p", colour="red"), "Extra inputs"),
    ],
)  # fmt: skip
def test_impossible_descriptions_say_why(make, message):
    with pytest.raises(ValidationError, match=message):
        make()


def test_an_unknown_view_lists_those_there_are():
    with pytest.raises(NotFoundError, match="inside, outside"):
        small.project().description.view("attic")


def test_archive_round_trip(tmp_path):
    loaded = small.project()
    target = tmp_path / "room.zip"
    projects.save(loaded, target)
    again = projects.load(target)
    assert again.description == loaded.description
    sha = again.description.placements[0].asset
    assert again.asset(sha) == loaded.asset(sha)
    with zipfile.ZipFile(target) as archive:
        archive.extractall(tmp_path / "folder")
    assert projects.load(tmp_path / "folder").description == loaded.description


def test_broken_archives_say_where(tmp_path):
    with pytest.raises(NotFoundError):
        projects.load(tmp_path / "missing.zip")
    (tmp_path / "text.zip").write_text("hello")
    with pytest.raises(InputError, match="not a project archive"):
        projects.load(tmp_path / "text.zip")
    with zipfile.ZipFile(tmp_path / "field.zip", "w") as archive:
        archive.writestr("project.json", '{"name": "x", "views": [{"key": "v"}]}')
    with pytest.raises(InputError, match=r"views\.0\.name"):
        projects.load(tmp_path / "field.zip")


def test_a_damaged_file_is_noticed(tmp_path):
    loaded = small.project()
    projects.save(loaded, tmp_path / "room.zip")
    with zipfile.ZipFile(tmp_path / "room.zip") as archive:
        archive.extractall(tmp_path / "folder")
    sha = loaded.description.placements[0].asset
    (tmp_path / "folder" / "assets" / sha).write_bytes(b"not what it was")
    with pytest.raises(InputError, match="damaged"):
        projects.load(tmp_path / "folder").asset(sha)


@pytest.mark.parametrize("width", [64, 480, 640, 1280, 1920])
def test_pictures_of_every_format_have_as_many_pixels(width):
    """So that a portrait costs what a landscape does; the shape is the format's to a pixel."""
    view = View(key="v", name="V", position=(0, 0, 0), target=(1, 0, 0))
    assert view.pixels(width) == (width, round(width * 9 / 16))
    for format in ((3, 2), (2, 3), (1, 1), (239, 100), (8, 1), (1, 8), (32, 18)):
        across, down = view.model_copy(update={"format": format}).pixels(width)
        assert across * down == pytest.approx(width * width * 9 / 16, rel=0.06 if width > 64 else 0.2)
        assert across / format[0] * format[1] == pytest.approx(down, abs=0.51 * max(1, format[1] / format[0]))


@pytest.mark.parametrize("format", [(0, 1), (9, 1), (1, 9), (-3, 2), (3.5, 2), (20_000, 19_999), (3,), "16:9"])
def test_impossible_formats_are_refused(format):
    with pytest.raises(ValidationError, match="format"):
        View(key="v", name="V", position=(0, 0, 0), target=(1, 0, 0), format=format)
