"""What has changed since a plate was made, by the step of work it belongs to."""

from __future__ import annotations

from typing import Any, Literal, get_args

Step = Literal["stage", "daylight", "fixtures", "air", "lens", "finish"]
STEPS: tuple[Step, ...] = get_args(Step)


def changed_steps(then: dict[str, Any], now: dict[str, Any], view_key: str, occasion_key: str) -> list[Step]:
    """Steps whose settings differ between two descriptions (plain data) for one view and occasion.

    Every step when the view or the occasion is gone.
    """
    a, b = _by_step(then, view_key, occasion_key), _by_step(now, view_key, occasion_key)
    if a is None or b is None:
        return list(STEPS)
    return [step for step in STEPS if a[step] != b[step]]


def _by_step(raw: dict[str, Any], view_key: str, occasion_key: str) -> dict[str, Any] | None:
    view = next((v for v in raw["views"] if v["key"] == view_key), None)
    occasion = next((o for o in raw["occasions"] if o["key"] == occasion_key), None)
    if view is None or occasion is None:
        return None
    chosen = view["look_at"].get(occasion_key)
    look = next((x for x in raw["looks"] if x["key"] == chosen), raw["looks"][0] if raw["looks"] else None)
    place = {k: v for k, v in view.items() if k not in ("name", "lens", "lens_at", "look_at")}
    return {
        "stage": raw["stage"],
        "daylight": (raw["site"], occasion["when"], occasion["sun"], occasion["sky"]),
        "fixtures": (raw["kinds"], raw["fixtures"], occasion["levels"]),
        "air": (sorted(occasion["hidden_layers"]), occasion.get("air")),
        "lens": (place, view["lens_at"].get(occasion_key, view["lens"])),
        "finish": look["treatments"] if look else None,
    }
