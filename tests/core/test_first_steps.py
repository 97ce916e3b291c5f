"""The start of a project: a place of the world, and a first look at the model."""

from __future__ import annotations

from zoneinfo import ZoneInfo

import numpy as np
import pytest

from valleylight.core.stage.overview import overview
from valleylight.core.sun.gazetteer import PLACES, find_places

#: Coordinates of cities to a few hundredths of a degree (from memory), and their IANA zones (tz database).
TOWNS = {
    "zürich": (47.37, 8.55, "Europe/Zurich"), "zurich": (47.37, 8.55, "Europe/Zurich"),
    "reykja": (64.14, -21.90, "Atlantic/Reykjavik"), "quito": (-0.22, -78.51, "America/Guayaquil"),
    "Auckland": (-36.85, 174.76, "Pacific/Auckland"), "東京": (35.69, 139.69, "Asia/Tokyo"),
    "saint pe": (59.94, 30.31, "Europe/Moscow"),
}  # fmt: skip


@pytest.mark.parametrize("typed", TOWNS)
def test_towns_are_found_by_the_beginning_of_any_spelling(typed):
    latitude, longitude, zone = TOWNS[typed]
    found = find_places(typed)[0]
    assert found.latitude_deg == pytest.approx(latitude, abs=0.12) and found.longitude_deg == pytest.approx(
        longitude, abs=0.12
    )
    assert found.time_zone == zone and ZoneInfo(zone)


def test_places_without_words_and_without_an_answer():
    assert find_places("") == list(PLACES[:12])
    assert find_places("tarn")[0].name == "Tarn valley (invented)"
    assert find_places("qqqxy") == []
    assert len(find_places("san", limit=7)) == 7


BOXES = {
    "a house": ((0, 0, 0), (12, 9, 7)), "far from the origin": ((5000, -3000, 400), (5020, -2990, 412)),
    "a model of 20 cm": ((-0.1, -0.1, 0), (0.1, 0.1, 0.2)), "a tower": ((0, 0, 0), (8, 8, 90)), "a plane": ((-30, -30, 0), (30, 30, 0)),
}  # fmt: skip


@pytest.mark.parametrize("name", BOXES)
def test_the_first_view_sees_all_of_the_model(name):
    """Every corner of its box lies within the 73.7 by 53.1 degrees of a 24 mm lens on 36 x 24 mm of film."""
    low, high = (np.array(corner, float) for corner in BOXES[name])
    position, target = (np.array(p) for p in overview(low, high))
    assert target == pytest.approx((low + high) / 2, abs=2e-3)
    ahead = (target - position) / np.linalg.norm(target - position)
    right = np.cross(ahead, (0, 0, 1)) / np.linalg.norm(np.cross(ahead, (0, 0, 1)))
    up = np.cross(right, ahead)
    for corner in np.array(np.meshgrid(*zip(low, high, strict=True))).reshape(3, -1).T:
        to = corner - position
        depth = to @ ahead
        assert depth > 0 and abs(to @ right) / depth <= 18 / 24 and abs(to @ up) / depth <= 18 / 24
    assert low[2] < position[2] <= low[2] + 1.6 + 1e-6
