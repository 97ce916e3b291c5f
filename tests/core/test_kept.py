"""What was computed is kept, and let go of by number and by weight."""

from __future__ import annotations

from valleylight.core.trace.scene.kept import Kept


def test_the_least_recently_used_goes_first():
    kept: Kept[str] = Kept(2)
    for key in ("a", "b", "a", "c"):
        kept.get(key, lambda key=key: key.upper())
    assert "b" not in kept and kept.values() == ["A", "C"]


def test_what_is_heavy_makes_room_and_the_newest_stays():
    kept: Kept[int] = Kept(5, float, 100.0)
    for size in (30, 40, 20):
        kept.get(size, lambda size=size: size)
    assert kept.values() == [30, 40, 20]
    kept.get(55, lambda: 55)
    assert kept.values() == [20, 55]  # 30 and 40 together were what it took
    kept.get(400, lambda: 400)
    assert kept.values() == [400]  # too heavy by itself, but in use
    assert kept.get(400, lambda: 1) == 400
    kept.get(10, lambda: 10)
    assert kept.values() == [10]
