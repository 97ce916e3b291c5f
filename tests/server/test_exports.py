"""Plates saved as files over HTTP: forms, sizes, names, several in a zip; what is refused, and what goes again."""

from __future__ import annotations

import io
import os
import time
import zipfile

import numpy as np
import pytest
from PIL import Image

from tests.server.test_plates import make, ready, settings  # noqa: F401
from valleylight.core.errors import InputError, NotFoundError
from valleylight.server.web.exporting import file_of, named, place_for, waiting


def export(client, slug, **wanted):
    return client.post(f"/api/projects/{slug}/exports", json=wanted)


def fetched(client, answer) -> bytes:
    assert answer.status_code == 201, answer.text
    told = answer.json()
    got = client.get(f"/api/exports/{told['file']}/{told['name']}")
    assert got.status_code == 200 and len(got.content) == told["bytes"]
    assert "attachment" in got.headers["content-disposition"]
    return got.content


@pytest.fixture
def plate(client, room) -> dict:
    return ready(client, room, make(client, room)["id"])


def test_a_plate_in_every_form_is_the_plate(client, room, plate, settings):  # noqa: F811
    kept = np.asarray(Image.open(io.BytesIO(client.get(f"/api/plates/{plate['id']}/picture.png").content))).astype(
        float
    )
    for form, near in (("png", 1.01), ("png16", 1.01), ("jpeg", 40), ("tiff16", 300)):
        answer = export(client, room, plates=[plate["id"]], form=form)
        picture = Image.open(io.BytesIO(fetched(client, answer)))
        assert picture.size == (plate["width"], plate["height"])
        if form != "tiff16":
            assert np.abs(np.asarray(picture.convert("RGB")).astype(float) - kept).max() <= near
    exr = fetched(client, export(client, room, plates=[plate["id"]], form="exr"))
    assert exr == client.get(f"/api/plates/{plate['id']}/linear.exr").content
    layers = Image.open(io.BytesIO(fetched(client, export(client, room, plates=[plate["id"]], form="layers"))))
    assert layers.n_frames >= 3
    sized = export(client, room, plates=[plate["id"]], form="jpeg", fit="a4", dpi=72)
    assert sized.json()["sizes"] == [[842, 474]] and sized.json()["enlarged"] == pytest.approx(
        842 / plate["width"], abs=0.01
    )
    assert Image.open(io.BytesIO(fetched(client, sized))).size == (842, 474)


def test_several_come_in_a_zip_under_names_of_their_own(client, room, plate):
    other = ready(client, room, make(client, room, occasion="noon")["id"])
    answer = export(client, room, plates=[plate["id"], other["id"]], pattern="{view} {quality}", form="jpeg")
    with zipfile.ZipFile(io.BytesIO(fetched(client, answer))) as archive:
        assert archive.namelist() == ["Inside sketch.jpg", "Inside sketch 2.jpg"]
        sizes = [Image.open(io.BytesIO(archive.read(n))).size for n in archive.namelist()]
    assert sizes == [(plate["width"], plate["height"])] * 2
    one = export(client, room, plates=[other["id"]], pattern="{date} {occasion} {number}")
    assert one.json()["name"] == f"2026-06-21 Noon {other['id']}.png"


def test_what_cannot_be_saved_is_refused_and_leaves_no_file(client, room, plate, settings):  # noqa: F811
    def left() -> list[str]:
        return sorted(os.listdir(settings.files / "scratch"))

    before = left()
    for wanted, status, said in (
        ({"plates": [plate["id"], 999999]}, 404, "999999"), ({"plates": []}, 422, "plates"), ({"plates": [plate["id"]] * 2}, 422, "twice"),
        ({"plates": [plate["id"]], "pattern": "{moon}"}, 422, "{moon}"), ({"plates": [plate["id"]], "pattern": "{view"}, 422, "brace"),
        ({"plates": [plate["id"]], "form": "gif"}, 422, "form"), ({"plates": [plate["id"]], "fit": "a1", "dpi": 1200}, 422, "too large"),
        ({"plates": [plate["id"]], "dpi": 1e9}, 422, "dpi"), ({"plates": [-1]}, 404, "-1"),
    ):  # fmt: skip
        answer = export(client, room, **wanted)
        assert answer.status_code == status and said in answer.text, answer.text
    assert left() == before
    other = client.post("/api/projects", json={"name": "Other"}).json()["slug"]
    assert export(client, other, plates=[plate["id"]]).status_code == 404
    for file in ("0" * 32 + ".png", "a" * 32 + ".exe", "%2e%2e%2fa"):
        assert client.get(f"/api/exports/{file}/x.png").status_code == 404


@pytest.mark.parametrize(
    ("pattern", "name"),
    [
        ("{view}", "Long view"), ("{view}/{view}", "Long view_Long view"), ("..", "picture"), ("a\x00b\u202e", "ab"), ("{project}", "Mühle"),
        (" {view}. ", "Long view"), ("x" * 119, "x" * 100),
    ],
)  # fmt: skip
def test_names_are_fit_for_files(pattern, name):
    values = {"view": "Long view", "project": "Mühle"}
    taken: set[str] = set()
    assert named(pattern, values, taken) == name
    assert named(pattern, values, taken) == f"{name} 2" and named(
        pattern.upper() if "{" not in pattern else pattern, values, taken
    ).lower().startswith(name.lower())
    for bad in ("{}", "{ view}", "{{view}}", "}"):
        with pytest.raises(InputError):
            named(bad, values, set())


def test_files_that_wait_go_after_an_hour(tmp_path):
    old, new = place_for(tmp_path, ".png"), place_for(tmp_path, ".png")
    for path in (old, new):
        path.write_bytes(b"x")
    assert waiting(tmp_path, file_of(old)) == old
    os.utime(old, (time.time() - 4000,) * 2)
    place_for(tmp_path, ".zip")
    assert new.is_file() and not old.exists()
    with pytest.raises(NotFoundError):
        waiting(tmp_path, file_of(old))
