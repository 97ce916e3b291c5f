"""Arrows between packages run one way, as the tables of docs/architecture.md say, and on no other road."""

from __future__ import annotations

import ast
import re
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
SOURCE = ROOT / "src" / "valleylight"
#: The public face of the core names what it offers, loaded when first used.
FACE = "valleylight.core"


def imports(file: Path) -> Iterator[str]:
    """Every module, or name of one, that a file imports of the product, wherever in it."""
    for node in ast.walk(ast.parse(file.read_text())):
        if isinstance(node, ast.ImportFrom):
            assert node.level == 0, f"{file}: imports are written out in full"
            if (node.module or "").startswith("valleylight"):
                yield from (f"{node.module}.{name.name}" for name in node.names)
        elif isinstance(node, ast.Import):
            yield from (name.name for name in node.names if name.name.startswith("valleylight."))


def room_of(module: str, within: str) -> str | None:
    """The package, or file, directly within another that a module belongs to; `.` for one of its own names."""
    if not module.startswith(within + "."):
        return None
    first = module[len(within) + 1 :].split(".")[0]
    folder = ROOT / "src" / within.replace(".", "/")
    if (folder / first).is_dir():
        return first
    return first if within == FACE and (folder / f"{first}.py").is_file() else "."


def used(within: str) -> dict[str, set[str]]:
    """For each package within another, those that it imports from."""
    folder, found = ROOT / "src" / within.replace(".", "/"), {}
    for file in folder.rglob("*.py"):
        parts = file.relative_to(ROOT / "src").with_suffix("").parts
        own = room_of(".".join(parts), within)
        if own is None or file == folder / "__init__.py":
            continue
        others = {room_of(name, within) for name in imports(file)} - {None, own}
        found.setdefault(own, set()).update(others)
    return found


def stated(heading: str) -> dict[str, set[str]]:
    """A table of docs/architecture.md: what each package stands on."""
    text = (ROOT / "docs" / "architecture.md").read_text()
    table = re.split(r"\n\n", text[text.index(heading) :], maxsplit=1)[0]
    rows = [[cell.strip() for cell in line.strip("|").split("|")] for line in table.splitlines()[2:]]
    return {name.strip("`"): {o for o in others.split(", ") if o} for name, _, others in rows}


@pytest.mark.parametrize(("within", "heading"), [
    (FACE, "| package of `core` |"), ("valleylight.core.trace", "| room of `core/trace` |"),
    ("valleylight.server", "| package of `server` |"),
])  # fmt: skip
def test_packages_stand_on_what_the_table_says(within, heading):
    assert used(within) == stated(heading)


@pytest.mark.parametrize("within", [FACE, "valleylight.core.trace", "valleylight.server"])
def test_no_two_packages_need_each_other(within):
    """Taken away one after the other, whatever stands on nothing that is left."""
    left = used(within)
    while left:
        free = [name for name, others in left.items() if not others & left.keys()]
        assert free, f"a circle: { {name: sorted(others & left.keys()) for name, others in left.items()} }"
        for name in free:
            del left[name]


def test_the_core_knows_nothing_of_server_demo_and_command_line():
    for file in (SOURCE / "core").rglob("*.py"):
        outside = [name for name in imports(file) if not name.startswith(FACE + ".")]
        assert outside == [], f"{file}: {outside}"
    for file in (SOURCE / "server").rglob("*.py"):
        assert [n for n in imports(file) if n.startswith(("valleylight.cli", "valleylight.demo"))] == [], file


def test_the_web_process_does_without_the_tracer():
    """It starts sooner, and a fault of the tracer is the renderer's alone."""
    code = "import sys, valleylight.server.web.app; print([m for m in sys.modules if m.endswith(('trace.render', 'worker.loop', 'embree'))])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
