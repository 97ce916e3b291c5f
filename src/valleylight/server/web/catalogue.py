"""The catalogue of profiles: what is kept of each file, how it is searched, and what is alike."""

from __future__ import annotations

import re
from dataclasses import asdict
from typing import Any

import numpy as np
from peewee import fn

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.photometry import Photometry, PhotometryError, decoded, write_eulumdat, write_lm63
from valleylight.core.photometry import read as read_photometry
from valleylight.core.photometry.figures import figures, unlikeness
from valleylight.core.photometry.glare import REFLECTANCES, ROOMS, glare_table, why_no_table
from valleylight.server import logs
from valleylight.server.store import storage
from valleylight.server.store.files import FileStore
from valleylight.server.web.profiles import curves, read_kept
from valleylight.server.web.schemas.catalogue import GlareFigures, ProfileFigures, ProfileLine, ProfilePage, ProfileSearch
from valleylight.server.store.tables import AssetRow, ProfileRow

log = logs.log()
#: No luminaire has a flux in lm, a power in W or an intensity in cd beyond this.
GREATEST_FIGURE = 1e12
#: Colour temperature of a profile that states none.
UNSTATED_K = 3000.0
_KELVIN = re.compile(r"(?<!\d)([1-9]\d{3})\s*K?(?!\d)")
MOST_TILT_CHARACTERS = 20_000


def take(files: FileStore, data: bytes, name: str, tilt: str | None = None) -> ProfileLine:
    """Read a file, keep it and list it. Raises PhotometryError that names the line; nothing is then kept."""
    if tilt:
        data = _with_tilt(data, tilt)
    profile = read_photometry(data, name)
    facts = _facts(profile, name)  # before anything is kept: a row that cannot be read again must never be written
    sha = storage.keep(files, data, "profile", name)
    return line(_listed(sha, facts))


def list_unlisted(files: FileStore) -> None:
    """List the profiles that came with projects; a missing or broken file must not keep the server from starting."""
    known = {row.sha256.strip() for row in ProfileRow.select(ProfileRow.sha256)}
    for asset in AssetRow.select().where(AssetRow.kind == "profile"):
        sha = asset.sha256.strip()
        if sha not in known:
            try:
                _listed(sha, _facts(read_kept(files.read(sha)), asset.given_name or "profile"))
            except Exception as error:  # one bad file must not keep the server from starting
                log.warning("a profile could not be listed", profile=sha[:12], reason=str(error))


def _with_tilt(data: bytes, tilt: str) -> bytes:
    """The file with its tilt file included, so that it stands alone."""
    if len(tilt) > MOST_TILT_CHARACTERS:
        raise InputError("the tilt file is too long", "tilt", "Choose the .tlt file that the profile names")
    text = re.sub(
        r"^(\s*TILT\s*=).*$", lambda m: f"{m[1]}INCLUDE\n{tilt.strip()}", decoded(data), count=1, flags=re.I | re.M
    )
    return text.encode("utf-8")


def _listed(sha: str, facts: dict[str, Any]) -> ProfileRow:
    ProfileRow.insert(sha256=sha, **facts).on_conflict_ignore().execute()
    return ProfileRow.get(ProfileRow.sha256 == sha)


def _facts(profile: Photometry, name: str) -> dict[str, Any]:
    """What a profile is searched by. Raises PhotometryError where its figures are no quantities."""
    with np.errstate(all="ignore"):
        found = figures(profile)
    words = " ".join(filter(None, (profile.name, name, *(str(v) for v in profile.keywords.values()), found.shape)))
    beam = profile.beam_angles_deg
    facts = dict(
        name=(profile.name or name.rsplit(".", 1)[0])[:120], file_name=name[:255],
        maker=profile.keywords.get("MANUFAC", "")[:80], source_format=profile.source_format, lumens=profile.lumens,
        watts=max(profile.watts, 0.0), peak_cd=profile.peak_cd, beam_across=beam[0], beam_along=beam[1], shape=found.shape,
        mounting=_mounting(found.shape, profile), kelvin=_kelvin(profile), words=words[:1000], warnings=list(profile.warnings),
    )  # fmt: skip
    for key, value in facts.items():
        if isinstance(value, float) and not (np.isfinite(value) and abs(value) <= GREATEST_FIGURE):
            raise PhotometryError(f"its {key.replace('_', ' ')} would be {value:g}", name, "Check the numbers of the file.")
    return facts


def _mounting(shape: str, profile: Photometry) -> str:
    """Where such a fixture is usually found."""
    if shape == "uplight":
        return "wall"
    if shape == "diffuse all round":
        return "hung"
    if shape == "up and down":
        return "hung" if profile.opening.shape in ("sphere", "rectangle", "box") else "wall"
    return "ceiling"


def _kelvin(profile: Photometry) -> float | None:
    """Colour temperature that the file states in its keywords or lamp."""
    stated = [profile.keywords.get(k, "") for k in ("COLORTEMP", "_CCT", "CCT", "LAMP")]
    stated += [s.colour for s in profile.lamp_sets[:1]]
    for text in stated:
        match = _KELVIN.search(text)
        if match and 1000 <= int(match[1]) <= 12_000:
            return float(match[1])
    return None


def line(row: ProfileRow) -> ProfileLine:
    return ProfileLine(
        sha256=row.sha256.strip(), name=row.name, file_name=row.file_name, maker=row.maker, source_format=row.source_format,
        lumens=row.lumens, watts=row.watts, peak_cd=row.peak_cd, beam_deg=(row.beam_across, row.beam_along), shape=row.shape,
        mounting=row.mounting, kelvin=row.kelvin, pictured=row.pictured, warnings=row.warnings,
    )  # fmt: skip


def search(files: FileStore, wanted: ProfileSearch) -> ProfilePage:
    """Profiles that fit, by name, or the most alike first."""
    query = ProfileRow.select()
    for word in wanted.text.lower().split():
        query = query.where(fn.LOWER(ProfileRow.words).contains(word))
    beam = (ProfileRow.beam_across + ProfileRow.beam_along) / 2
    for value, low, high in (
        (beam, wanted.beam_from, wanted.beam_to), (ProfileRow.lumens, wanted.lumens_from, wanted.lumens_to),
        (ProfileRow.kelvin, wanted.kelvin_from, wanted.kelvin_to),
    ):  # fmt: skip
        if low is not None:
            query = query.where(value >= low)
        if high is not None:
            query = query.where(value <= high)
    if wanted.shape:
        query = query.where(ProfileRow.shape == wanted.shape)
    if wanted.mounting:
        query = query.where(ProfileRow.mounting == wanted.mounting)
    total = query.count()
    if wanted.like:
        like = read_kept(files.read(wanted.like))
        rows = sorted(query, key=lambda r: _unlike(files, like, r))
        rows = rows[wanted.offset : wanted.offset + wanted.limit]
    else:
        rows = list(query.order_by(ProfileRow.name, ProfileRow.sha256).offset(wanted.offset).limit(wanted.limit))
    shapes = [r.shape for r in ProfileRow.select(ProfileRow.shape).distinct().order_by(ProfileRow.shape)]
    waiting = ProfileRow.select().where(ProfileRow.pictured == False).count()  # noqa: E712
    return ProfilePage(total=total, profiles=[line(r) for r in rows], shapes=shapes, waiting=waiting)


def _unlike(files: FileStore, like: Photometry, row: ProfileRow) -> float:
    """How unlike a profile is; one whose file is missing comes last."""
    try:
        return unlikeness(like, read_kept(files.read(row.sha256.strip())))
    except InputError:
        return 1.0


def find(sha256: str) -> ProfileRow:
    """A profile of the catalogue. Raises NotFoundError."""
    row = ProfileRow.get_or_none(ProfileRow.sha256 == sha256)
    if row is None:
        raise NotFoundError(f"there is no profile {sha256[:12]}", "profile", "Choose one of the catalogue")
    return row


def all_figures(row: ProfileRow, data: bytes) -> ProfileFigures:
    """Everything computed from a profile."""
    profile = read_kept(data)
    o = profile.opening
    found = asdict(figures(profile))
    table = glare_table(profile)
    glare = None if table is None else GlareFigures(
        rooms=list(ROOMS), reflectances=list(REFLECTANCES), crosswise=np.round(table.crosswise, 1).tolist(),
        endwise=np.round(table.endwise, 1).tolist(),
    )  # fmt: skip
    return ProfileFigures(
        line=line(row), **curves(profile), field_deg=profile.field_angles_deg, stated_lumens=profile.stated_lumens,
        opening=o.shape, opening_m=(o.width_m, o.length_m, o.height_m), glare=glare, no_glare=why_no_table(profile),
        lamp_sets=[f"{s.count:g} x {s.kind}, {s.lumens:.0f} lm, {s.watts:g} W" for s in profile.lamp_sets],
        keywords=profile.keywords, **found,
    )  # fmt: skip


def as_file(data: bytes, suffix: str) -> bytes:
    """The profile written anew as LM-63 (ies) or EULUMDAT (ldt)."""
    profile = read_kept(data)
    text = write_lm63(profile) if suffix == "ies" else write_eulumdat(profile)
    return text.encode("utf-8" if suffix == "ies" else "latin-1", "replace")
