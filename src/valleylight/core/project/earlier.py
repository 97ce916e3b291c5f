"""Descriptions written by earlier versions, brought into today's form as plain data, before they are checked."""

from __future__ import annotations

from typing import Any

from valleylight.core.project.keys import key_for


def upgraded(raw: Any) -> Any:
    """A description in today's form; what is none is left for the check that follows. Nothing is altered in place."""
    if not isinstance(raw, dict):
        return raw
    return _three_sides_as_laying(_models_as_placements(raw))


def _three_sides_as_laying(raw: dict[str, Any]) -> dict[str, Any]:
    stage = raw.get("stage")
    return {**raw, "stage": with_laying(stage)} if isinstance(stage, dict) and stage.get("surfaces") else raw


def with_laying(value: Any) -> Any:
    """Plain data in which pictures that lie from three sides had a tile of their own beside the other numbers of a surface."""
    if isinstance(value, list):
        return [with_laying(v) for v in value]
    if not isinstance(value, dict):
        return value
    now = {k: with_laying(v) for k, v in value.items() if k != "triplanar_m"}
    if value.get("triplanar_m") is not None:
        now["laying"] = {"by": "sides", "tile_m": value["triplanar_m"]}
    return now


def _models_as_placements(raw: dict[str, Any]) -> dict[str, Any]:
    """Models stood in a list of the stage, each where its file put it."""
    stage = raw.get("stage")
    if not isinstance(stage, dict) or "models" not in stage:
        return raw
    models = stage["models"] if isinstance(stage["models"], list) else []
    placements = raw.get("placements", [])
    if not isinstance(placements, list):
        return raw
    placements = list(placements)
    for model in models:
        if isinstance(model, dict):
            taken = {str(placement.get("key")) for placement in placements if isinstance(placement, dict)}
            placements.append({"key": key_for(str(model.get("name", "")), taken, "model"), **model})
    return {**raw, "stage": {k: v for k, v in stage.items() if k != "models"}, "placements": placements}
