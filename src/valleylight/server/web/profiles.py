"""Fixture kinds of a project: figures and curves of their measured profiles."""

from __future__ import annotations

from functools import lru_cache
from typing import Any, get_args

import numpy as np

from valleylight.core.lamps.quantities import Quantity, flux_of
from valleylight.core.photometry import Photometry
from valleylight.core.photometry import read as read_photometry
from valleylight.core.project.description import FixtureKind, Project
from valleylight.core.project.keys import key_for
from valleylight.server.web.schemas.projects import KindFigures

#: Distance of a flux told in lx, and efficacy of one told in W.
TOLD_AT_M, TOLD_LM_W = 2.0, 100.0
_GAMMA = np.arange(-180.0, 180.1, 3.0)


@lru_cache(maxsize=1024)
def read_kept(data: bytes) -> Photometry:
    """A profile that was read before without complaint."""
    return read_photometry(data)


def curves(p: Photometry) -> dict[str, Any]:
    """Intensities of the planes C0-C180 and C90-C270, for polar curves."""

    def plane(c_deg: float) -> list[float]:
        values = p.intensity(np.where(_GAMMA >= 0, c_deg, c_deg + 180.0), np.abs(_GAMMA))
        return [round(float(v), 3) for v in values]

    return {"gamma_deg": _GAMMA.tolist(), "across_cd": plane(0.0), "along_cd": plane(90.0)}


def figures(kind: FixtureKind, data: bytes) -> KindFigures:
    """The kind with flux, angles and two polar curves."""
    p = read_kept(data)
    o = p.opening
    return KindFigures(
        kind=kind, source_format=p.source_format, lumens=p.lumens, stated_lumens=p.stated_lumens, watts=p.watts,
        beam_deg=p.beam_angles_deg, field_deg=p.field_angles_deg, peak_cd=p.peak_cd, opening=o.shape,
        opening_m=(o.width_m, o.length_m, o.height_m), warnings=list(p.warnings), **curves(p),
        lumens_per={q: flux_of(1.0, q, p, TOLD_AT_M, TOLD_LM_W) for q in get_args(Quantity)},
    )  # fmt: skip


def new_kind(project: Project, name: str, sha256: str, **details: Any) -> FixtureKind:
    """A new kind for a profile, with a key of its own."""
    name = name.strip()[:60] or "Fixture"
    key = key_for(name, {kind.key for kind in project.kinds}, "fixture")
    return FixtureKind(key=key, name=name, profile=sha256, **details)


def plain_body(profile: Photometry) -> str:
    """A plain body that fits a profile's luminous opening."""
    return {"disc": "downlight", "sphere": "pendant"}.get(profile.opening.shape, "none")
