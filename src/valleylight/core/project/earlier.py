"""Descriptions written by earlier versions, brought into today's form as plain data, before they are checked."""

from __future__ import annotations

from typing import Any

from valleylight.core.project.keys import key_for


def upgraded(raw: Any) -> Any:
    """A description in today's form; what is none is left for the check that follows. Nothing is altered in place."""
    if not isinstance(raw, dict):
        return raw
    return _models_as_placements(raw)


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
