"""Every package that ships stands in NOTICE with its licence."""

from __future__ import annotations

import json
import re
import tomllib
from importlib.metadata import PackageNotFoundError, distribution

from tests.conftest import ROOT


def _named() -> dict[str, str]:
    lines = (ROOT / "NOTICE").read_text().splitlines()
    return {_plain(name): licence.strip() for name, sep, licence in (line.partition(": ") for line in lines) if sep}


def _plain(name: str) -> str:
    return re.split(r"[ <>=!~;\[]", name)[0].lower().replace("_", "-")


def test_python_packages_and_what_they_need():
    left = list(tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"])
    named, met = _named(), set()
    while left:
        wanted = left.pop()
        name = _plain(wanted)
        if name in met or "extra ==" in wanted:
            continue
        met.add(name)
        try:
            left += distribution(name).requires or []
        except PackageNotFoundError:  # for other platforms
            continue
        assert named.get(name), f"{name} is missing in NOTICE"
    assert len(met) > 20


def test_packages_of_the_web_client():
    named = _named()
    for name in json.loads((ROOT / "web" / "package.json").read_text())["dependencies"]:
        assert named.get(_plain(name)), f"{name} is missing in NOTICE"
