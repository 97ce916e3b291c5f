"""Scopes, readings and proofs of plates and of the live picture, over HTTP."""

from __future__ import annotations

import base64
import io

import numpy as np
import pytest
from PIL import Image, ImageCms

from tests.server.test_plates import make, ready
from valleylight.core.finish.readings import read_as
from valleylight.core.finish.scopes import scopes

SRGB = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def picture(answer) -> np.ndarray:
    assert answer.status_code == 200, answer.text
    return np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGB"))


@pytest.fixture
def plate(client, room) -> int:
    return ready(client, room, make(client, room)["id"])["id"]


def test_a_plate_is_read_on_instruments(client, plate):
    told = client.get(f"/api/plates/{plate}/scopes").json()
    own = scopes(picture(client.get(f"/api/plates/{plate}/picture.png")))
    assert told["luma"] == pytest.approx(own.luma, abs=1e-5)
    assert told["zones"] == pytest.approx(own.zones, abs=1e-5)
    assert told["cast"] == own.cast
    rows, columns = told["waveform_size"]
    grid = np.frombuffer(base64.b64decode(told["waveform"]), np.uint8).reshape(rows, columns)
    assert grid.max() == 255
    assert ((grid > 0) <= (own.waveform > 0)).all()
    assert len(base64.b64decode(told["vectors"])) == told["vectors_size"] ** 2


@pytest.mark.parametrize("reading", ["grey", "zones", "protan", "deutan", "tritan"])
def test_a_plate_is_read_otherwise(client, plate, reading):
    own = picture(client.get(f"/api/plates/{plate}/picture.png"))
    got = picture(client.get(f"/api/plates/{plate}/read/{reading}"))
    assert np.abs(got.astype(int) - read_as(own, reading)).mean() < 4  # JPEG
    assert client.get(f"/api/plates/{plate}/read/purple").status_code == 422
    assert client.get("/api/plates/999999/read/grey").status_code == 404


def test_a_proof_by_a_profile_that_was_brought_in(client, plate):
    for wrong in (b"", b"no profile", SRGB[:300]):
        answer = client.post("/api/print-profiles", params={"name": "paper.icc"}, content=wrong)
        assert answer.status_code == 422, wrong[:20]
        assert answer.json()["title"]
    assert client.get("/api/print-profiles").json() == []
    made = client.post("/api/print-profiles", params={"name": "paper.icc"}, content=SRGB).json()
    assert client.get("/api/print-profiles").json() == [made]
    own = picture(client.get(f"/api/plates/{plate}/picture.png"))
    proof = picture(client.get(f"/api/plates/{plate}/proof/{made['sha256']}"))
    assert np.abs(proof.astype(int) - own).mean() < 4
    assert client.get(f"/api/plates/{plate}/proof/{'0' * 64}").status_code == 404


def test_the_live_picture_is_read_too(on_show):
    url = f"/api/projects/{on_show.room}/scopes"
    told = on_show.client.post(url, json={"view": "inside", "occasion": "night"})
    assert told.status_code == 200
    assert sum(told.json()["luma"]) == pytest.approx(1, abs=1e-4)
    other = on_show.client.post(url, json={"view": "outside", "occasion": "night"})
    assert other.status_code == 422
    assert "not there yet" in other.json()["detail"]
    on_show.show(mode="grey")
    _, image = on_show.seen
    shown = np.asarray(Image.open(io.BytesIO(image))).astype(int)
    assert np.ptp(shown, axis=-1).max() <= 12  # JPEG
