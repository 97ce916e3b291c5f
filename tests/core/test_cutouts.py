"""Cut-outs: pictures as they come in, sides, places in the picture, what the description allows."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image
from pydantic import ValidationError

from tests import small
from valleylight.core.compose.offers import OFFERS, true_height_m
from valleylight.core.compose.sculpted import sculpted
from valleylight.core.compose.seen import lit_from, standing
from valleylight.core.compose.sides import SIDES, side_of
from valleylight.core.compose.sprite import TEXEL, keyed, png_of, sprite, sprite_of_picture
from valleylight.core.compose.sprites import Sprites
from valleylight.core.errors import InputError
from valleylight.core.history.back import over_now
from valleylight.core.history.differences import State, differences
from valleylight.core.history.steps import changed_steps
from valleylight.core.lens.framing import frame_of
from valleylight.core.project import View
from valleylight.core.project.archive import assets_of
from valleylight.core.project.changes import changed
from valleylight.core.project.copies import copy_part
from valleylight.core.project.cutout import CutOut
from valleylight.core.project.placement import Made
from valleylight.core.trace.arrays.camera import camera_array

PERSON = Made(family="person", parameters={"pose": 1})


def cutout(**more) -> CutOut:
    return CutOut(**{"key": "a", "name": "Anna", "view": "v", "made": PERSON, "place": (0, 0, 0), **more})


def picture(pixels: np.ndarray, form: str = "PNG", **how) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, form, **how)
    return out.getvalue()


def disc(size: int = 60, alpha: int = 255) -> np.ndarray:
    """A green disc on nothing."""
    y, x = np.mgrid[:size, :size] - size / 2 + 0.5
    pixels = np.zeros((size, size, 4), np.uint8)
    pixels[..., 1] = 160
    pixels[..., 3] = np.where(np.hypot(x, y) < size * 0.4, alpha, 0)
    return pixels


@pytest.mark.parametrize("form", ["PNG", "WEBP", "TIFF"])
def test_pictures_with_alpha_are_cut_to_what_is_seen(form):
    made = sprite_of_picture(picture(disc(), form, **({"lossless": True} if form == "WEBP" else {})))
    assert made.size == (48, 48)
    assert made.middle == pytest.approx(24, abs=0.1)
    assert made.alpha.mean() == pytest.approx(np.pi / 4, abs=0.02)
    assert not made.modelled
    again = sprite_of_picture(png_of(made))
    assert np.abs(again.texels - made.texels).max() < 0.01


def test_pictures_that_cannot_stand_are_refused_with_a_remedy():
    opaque = np.full((20, 20, 3), 90, np.uint8)
    for data, what in (
        (picture(opaque), "no alpha"), (picture(disc(), "GIF"), "cannot be read"), (b"not a picture", "cannot be read"),
        (picture(disc())[:120], "cannot be read"), (picture(np.zeros((9, 9, 4), np.uint8)), "nothing of the picture"),
    ):  # fmt: skip
        with pytest.raises(InputError, match=what) as told:
            sprite_of_picture(data, "anna.png")
        assert told.value.where == "anna.png" and told.value.remedy
    frames = io.BytesIO()
    Image.fromarray(disc()).save(frames, "PNG", save_all=True, append_images=[Image.fromarray(disc(60, 90))])
    with pytest.raises(InputError, match="animated"):
        sprite_of_picture(frames.getvalue())


def test_a_header_that_promises_too_much_is_refused_before_it_is_read():
    huge = bytearray(picture(disc()))
    huge[16:24] = (40_000).to_bytes(4, "big") * 2
    with pytest.raises(InputError):
        sprite_of_picture(bytes(huge))


def test_a_plain_ground_is_taken_out_by_the_matting_equation():
    """c = a F + (1 - a) B (Porter and Duff 1984): with F far from B both are found again, half-covered edges too."""
    front, ground = np.array([0.05, 0.3, 0.04], np.float32), np.array([1.0, 1.0, 1.0], np.float32)
    a = np.tile(np.array([0, 1, 1], np.float32), (30, 10))
    mixed = a[..., None] * front + (1 - a[..., None]) * ground
    colour, alpha = keyed(mixed.astype(np.float32), np.ones_like(a), "#ffffff")
    assert np.abs(alpha - a).max() < 0.02
    assert np.abs(colour[a == 1] - front).max() < 0.02
    half = (0.5 * front + 0.5 * ground)[None, None].repeat(2, 1)
    both = np.concatenate([mixed, np.broadcast_to(half, (30, 2, 3))], 1).astype(np.float32)
    _, edge = keyed(both, np.ones(both.shape[:2], np.float32), "#ffffff")
    assert 0.2 < edge[0, -1] <= 1
    kept = sprite_of_picture(picture(np.round(255 * (mixed ** (1 / 2.2))).astype(np.uint8)), "board", "#ffffff")
    assert kept.alpha.mean() > 0.6


def test_smaller_levels_hold_what_the_large_one_holds():
    made = sprite_of_picture(picture(disc(97)))
    texels, levels = made.levels
    assert texels.shape[1] == TEXEL and levels[-1][1:].max() <= 2
    total = made.texels.sum((0, 1), dtype=float)
    for k, (first, rows, columns) in enumerate(levels):
        part = texels[first : first + rows * columns].sum(0, dtype=float) * 4**k
        assert np.allclose(part, total, rtol=1e-3, atol=0.5)


def test_feet_are_found_and_the_middle_lies_between_them():
    alpha = np.zeros((100, 60), np.float32)
    alpha[:90, 10:50] = 1
    alpha[90:, 12:20] = alpha[90:, 40:48] = 1
    made = sprite(np.ones((100, 60, 3), np.float32), alpha)
    assert made.middle == pytest.approx(20, abs=0.2)  # the picture begins at its tenth column
    assert np.allclose(np.sort(made.feet, 0), [[-0.18, -0.10], [0.10, 0.18]], atol=0.006)


@pytest.mark.parametrize(
    ("turn", "towards", "side"),
    [
        (0, (0, -1), 0),
        (0, (1, 0), SIDES // 4),
        (90, (1, 0), 0),
        (180, (0, -1), SIDES // 2),
        (-90, (0, 1), SIDES * 3 // 4),
    ],
)
def test_a_cut_out_shows_the_side_that_faces_whoever_looks(turn, towards, side):
    assert side_of(turn, towards) == side


def test_sprites_are_made_once_kept_on_disk_and_made_anew_when_damaged(tmp_path, monkeypatch):
    calls = []

    def traced(what, side, stop):
        calls.append(side)
        return sprite(
            np.full((8, 4, 3), 0.5, np.float32), np.ones((8, 4), np.float32), np.full((8, 4, 3), [0, 0, 1], np.float32)
        )

    monkeypatch.setattr("valleylight.core.compose.sprites.sculpted", traced)
    one = Sprites(lambda sha: b"", tmp_path)
    who = cutout()
    assert not one.has(who, (0, -1))
    assert one.of(who, (0, -1)) is one.of(who, (0.01, -1))
    assert calls == [0] and one.has(who, (0, -1))
    again = Sprites(lambda sha: b"", tmp_path)
    assert again.has(who, (0, -1)) and again.of(who, (0, -1)).size == (8, 4) and calls == [0]
    [kept] = tmp_path.glob("cutout-*.npz")
    kept.write_bytes(kept.read_bytes()[:40])
    assert Sprites(lambda sha: b"", tmp_path).of(who, (0, -1)).size == (8, 4)
    assert calls == [0, 0]
    mirrored = cutout(mirrored=True)
    one.of(mirrored, (1, 0))
    assert calls[-1] == -SIDES // 4  # the mirror image of the other side


def test_a_person_is_traced_from_its_sides():
    front, side = (sculpted(PERSON, k) for k in (0, SIDES // 4))
    for made in (front, side):
        assert made.modelled and made.size[0] > 490
        normals = made.texels[..., 4:7][made.alpha > 0.99]
        assert np.abs(np.linalg.norm(normals, axis=-1) - 1).max() < 0.02
        assert (normals[:, 2] >= -1e-3).all()  # what is seen faces the lens
        colour = made.texels[..., :3][made.alpha > 0.99]
        assert 0.02 < colour.mean() < 0.6
    # Walking, one is longer from the side than from the front.
    assert side.size[1] > 1.2 * front.size[1]
    with pytest.raises(InputError, match="no cut-out"):
        sculpted(Made(family="valley"), 0)
    with pytest.raises(InputError, match="height"):
        sculpted(Made(family="person", parameters={"height": 9.0}), 0)


@pytest.mark.parametrize(
    "offer", [o for o in OFFERS if o.group != "Trees and shrubs" or o.key in ("box", "juniper")], ids=lambda o: o.key
)
def test_offers_stand_as_high_as_they_say(offer):
    assert offer.height_m == pytest.approx(true_height_m(offer.made), rel=0.02)


VIEW = View(key="v", name="v", position=(0, -10, 1.6), target=(0, 0, 1.2), focal_mm=28)


@pytest.mark.parametrize("away", [2.0, 9.0, 60.0])
def test_the_horizon_cuts_everyone_at_the_height_of_the_eye(away):
    """On level ground all whose head is at the height of the lens reach the horizon, near or far (common practice; similar triangles)."""
    made = sprite_of_picture(picture(disc()))
    camera = camera_array(VIEW, 8.0, VIEW.aspect)
    found = standing(cutout(place=(1.0, -10 + away, 0), height_m=1.6), made, camera, np.zeros(3), None)
    assert found is not None
    assert found.eye_m == pytest.approx(1.6)
    assert found.top == pytest.approx(frame_of(VIEW).horizon, abs=1e-6)
    assert found.distance_m == pytest.approx(np.hypot(np.hypot(1.0, away), 1.6))
    assert found.left < found.feet[0] < found.right
    assert standing(cutout(place=(0, -12, 0)), made, camera, np.zeros(3), None) is None  # behind the lens


def test_light_from_the_wrong_side_is_told_and_mirrored_away():
    pixels = disc()
    pixels[:, :30, :3] = (240, 230, 220)
    pixels[:, 30:, :3] = (60, 56, 50)
    made = sprite_of_picture(picture(pixels))
    assert lit_from(made) < -0.5
    camera, right, left = camera_array(VIEW, 8.0, VIEW.aspect), np.array([1.0, 0, 0.5]), np.array([-1.0, 0, 0.5])
    who = cutout(made=None, picture="0" * 64)

    def words(sun, c=who):
        return standing(c, made, camera, np.zeros(3), sun).words

    assert words(right) == ("It is lit from the left, the sun stands to the right: mirror it?",)
    assert words(left) == () and words(None) == ()
    assert words(right, who.model_copy(update={"mirrored": True})) == ()
    assert words(np.array([0.0, 1.0, 0.5])) == ()  # from behind, no side is wrong


def test_descriptions_hold_cut_outs_and_say_what_is_wrong():
    project = small.project().description
    people = (
        cutout(view="inside"),
        cutout(key="b", name="Board", view="outside", made=None, picture="a" * 64, hidden_at=("noon",)),
    )
    whole = project.model_copy(update={"cutouts": people})
    assert [c.key for c in whole.cutouts_at("inside", "noon")] == ["a"]
    assert whole.cutouts_at("outside", "noon") == () and len(whole.cutouts_at("outside", "night")) == 1
    assert "a" * 64 in assets_of(whole)
    for wrong in (
        {"made": None},
        {"picture": "a" * 64},
        {"height_m": 0},
        {"opacity": 0},
        {"tone": "red"},
        {"cast": 2},
        {"place": (0, 0, float("nan"))},
    ):
        with pytest.raises(ValidationError):
            cutout(**wrong)
    with pytest.raises(ValidationError, match="used twice"):
        type(project).model_validate({**project.model_dump(), "cutouts": [people[0].model_dump()] * 2})


def test_differences_and_settings_back_know_cut_outs():
    project = small.project().description
    then = project.model_copy(update={"cutouts": (cutout(view="inside"), cutout(key="o", name="Otto", view="outside"))})
    moved = then.cutouts[0].model_copy(update={"place": (0, 2.0, 0)})
    now = project.model_copy(update={"cutouts": (moved, cutout(key="n", name="Nora", view="inside"))})
    assert changed_steps(then, now, "inside", "noon") == ["compose"]
    assert changed_steps(then, then.model_copy(update={"cutouts": then.cutouts[:1]}), "inside", "noon") == []
    told = [d.text for d in differences(State(then, "inside", "noon"), State(now, "inside", "noon"))]
    assert told == ["Nora stands in it", "Anna moved by 2.00 m"]
    changes = [c for c in over_now(now, then, "inside", "noon") if c.part == "cutout"]
    assert {(c.key, c.value is None) for c in changes} == {("n", True), ("a", False)}


def test_copies_of_views_and_occasions_take_cut_outs_along():
    project = small.project().description
    whole = project.model_copy(
        update={"cutouts": (cutout(view="inside", hidden_at=("noon",)), cutout(key="o", view="outside"))}
    )
    for part, key in (("view", "inside"), ("occasion", "noon")):
        made, changes = copy_part(whole, part, key)
        after = type(whole).model_validate(changed(whole.model_dump(mode="json"), changes))
        if part == "view":
            assert [(c.view, c.hidden_at) for c in after.cutouts] == [
                ("inside", ("noon",)),
                ("outside", ()),
                (made, ("noon",)),
            ]
            assert len({c.key for c in after.cutouts}) == 3
        else:
            assert [c.hidden_at for c in after.cutouts] == [("noon", made), ()]
