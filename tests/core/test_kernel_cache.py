"""What is compiled is kept under all that it was made from, and under nothing else."""

from __future__ import annotations

import importlib
import os
import subprocess
import sys
from pathlib import Path
from typing import NamedTuple

import numpy as np
import pytest
from numba import typeof

from valleylight.core.jit import cache
from valleylight.core.jit.compiled import is_cached, kernel, part

CONSTANTS = "SCALE = 2.0\nTABLE = np.array([1.0, 2.0])\n"
HEAD = "import numpy as np\nfrom valleylight.core.jit.compiled import kernel, part\n"
BODY = '''
@kernel
def outer(x):
    """What it does."""
    return inner(x) + TABLE[0]  # and why


@{decorator}
def inner(x):
    return SCALE * x
'''
PLAIN = HEAD + CONSTANTS + BODY.format(decorator="kernel")


def written(tmp_path: Path, text: str, number: int = 0) -> object:
    """A module of kernels with a text."""
    name = f"written_{number}_{abs(hash(text))}"
    (tmp_path / f"{name}.py").write_text(text)
    sys.path.insert(0, str(tmp_path))
    try:
        return importlib.import_module(name)
    finally:
        sys.path.remove(str(tmp_path))


def name_of(tmp_path: Path, text: str, number: int = 0) -> str:
    return cache.fingerprint(written(tmp_path, text, number).outer)


@pytest.mark.parametrize("same", [
    PLAIN.replace("# and why", "# and why not"),
    PLAIN.replace("What it does.", "What it does, in other words."),
    "# a line above\n\n\n" + PLAIN,
    PLAIN + "\n\nUNUSED = 3\n\n\n@kernel\ndef another(x):\n    return x\n",
])  # fmt: skip
def test_comments_and_neighbours_change_nothing(tmp_path, same):
    assert name_of(tmp_path, same) == name_of(tmp_path, PLAIN, 1)


@pytest.mark.parametrize("other", [
    PLAIN.replace("inner(x) + TABLE[0]", "inner(x) - TABLE[0]"),
    PLAIN.replace("SCALE * x", "SCALE * x * x"),
    PLAIN.replace("SCALE = 2.0", "SCALE = 3.0"),
    PLAIN.replace("[1.0, 2.0]", "[1.0, 2.5]"),
    PLAIN.replace("[1.0, 2.0]", "[1, 2]"),
    PLAIN.replace("TABLE[0]", "TABLE[1]"),
    HEAD + CONSTANTS + BODY.format(decorator="part"),
])  # fmt: skip
def test_what_the_code_is_made_from_changes_the_name(tmp_path, other):
    """Its own code, the kernels it calls, the numbers and tables they name, and how they are compiled."""
    assert name_of(tmp_path, other) != name_of(tmp_path, PLAIN, 1)


def test_a_kernel_that_names_what_cannot_be_told_is_refused(tmp_path):
    with pytest.raises(TypeError, match="argument"):
        name_of(tmp_path, PLAIN.replace("TABLE = np.array([1.0, 2.0])", "TABLE = [1.0]"))


def test_tables_in_a_tuple_count_in_full(tmp_path):
    """A long table is told by an ellipsis; what changes in its middle must not be."""
    text = PLAIN.replace("TABLE = np.array([1.0, 2.0])", "TABLE = (1.0, np.arange(5000.0))")
    assert name_of(tmp_path, text) != name_of(tmp_path, text + "TABLE[1][2500] = 7.0\n", 1)


def test_a_kernel_may_call_itself_but_not_go_round(tmp_path):
    around = BODY.replace("return SCALE * x", "return SCALE * {calls}(x - 1) if x > 0 else x").replace(
        "{decorator}", "kernel"
    )
    again = HEAD + CONSTANTS + around.replace("{calls}", "inner")
    assert name_of(tmp_path, again) != name_of(tmp_path, again.replace("x - 1", "x - 2"), 1)
    with pytest.raises(TypeError, match="calls"):
        name_of(tmp_path, HEAD + CONSTANTS + around.replace("{calls}", "outer"), 2)


class Ab(NamedTuple):
    a: int
    b: int


class Ba(NamedTuple):
    b: int
    a: int


def test_the_order_of_fields_is_part_of_the_key():
    """Machine code finds a field by its place; Numba's own key knows the tuple's class alone."""
    keys = [tuple(cache._fields((typeof(kind(1, 2)),))) for kind in (Ab, Ba)]
    assert keys == [("a,b",), ("b,a",)]


COUNT = """
import sys
from pathlib import Path
sys.path.insert(0, sys.argv[1])
import kernels
print(kernels.outer(3.0), len(list(Path(sys.argv[2]).glob("*.nbc"))))
"""


def run(folder: Path, text: str) -> tuple[float, int]:
    """Result of the outer kernel in a new process, and how many pieces of code are on disk then."""
    (folder / "kernels.py").write_text(text)
    kept = folder / "kept"
    done = subprocess.run(
        [sys.executable, "-B", "-c", COUNT, str(folder), str(kept)], capture_output=True, text=True, check=True,
        env={**os.environ, "NUMBA_CACHE_DIR": str(kept)},
    )  # fmt: skip
    value, count = done.stdout.split()
    return float(value), int(count)


def test_an_edit_compiles_what_it_changes_and_going_back_nothing(tmp_path):
    """And a version met before is still there."""
    assert run(tmp_path, PLAIN) == (7.0, 2)
    assert run(tmp_path, "# more\n" + PLAIN) == (7.0, 2)
    assert run(tmp_path, PLAIN.replace("TABLE[0]", "TABLE[1]")) == (8.0, 3)  # the outer one alone
    assert run(tmp_path, PLAIN.replace("SCALE = 2.0", "SCALE = 4.0")) == (13.0, 5)  # the inner one, and who calls it
    assert run(tmp_path, PLAIN) == (7.0, 5)


@kernel
def _twice(x):
    return x + _once(x)


@part
def _once(x):
    return x


def test_what_nobody_uses_goes_after_a_month(tmp_path, monkeypatch):
    monkeypatch.setattr(cache, "HOME", tmp_path)
    used = _twice._cache.index_path
    names = (used.name, "old-1.py311.nbi", "old-1.py311.1.nbc", "young-1.py311.nbi", "young-1.py311.1.nbc")
    for name in names:
        (tmp_path / name).write_bytes(b"")
    for name in (used.name, "old-1.py311.nbi"):
        os.utime(tmp_path / name, (0, 0))
    monkeypatch.setitem(sys.modules, "valleylight.trial_of_the_cache", sys.modules[__name__])
    cache.forget_unused()
    assert sorted(f.name for f in tmp_path.iterdir()) == sorted({used.name, "young-1.py311.nbi", "young-1.py311.1.nbc"})


def test_kernels_are_kept_with_the_user_where_the_core_cannot_be_written(tmp_path, monkeypatch):
    (tmp_path / "file").write_text("no folder")
    beside, user = tmp_path / "file" / "kernels", tmp_path / "home" / "valleylight" / "kernels"
    assert cache._first_writable([beside, user]) == user and user.is_dir()
    assert cache._first_writable([tmp_path / "new", user]) == tmp_path / "new"
    assert cache._first_writable([beside]) == beside
    monkeypatch.delenv("NUMBA_CACHE_DIR", raising=False)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "home"))
    assert cache._places()[-1] == user and cache._places()[0].parts[-2:] == ("__pycache__", "kernels")
    monkeypatch.setenv("NUMBA_CACHE_DIR", str(tmp_path / "asked"))
    assert cache._places() == [tmp_path / "asked"]


def test_kernels_of_the_tracer_are_on_disk_once_they_have_run():
    from valleylight.core.trace.sampling import sobol

    assert sobol.square(np.int64(1), np.uint32(2), np.int64(3))[0] < 1
    assert is_cached(sobol.square)
