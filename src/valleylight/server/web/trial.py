"""Files are tried before they are kept, in a process of their own: one that is too much for the machine, or for a library, ends
there, with a budget of memory and time; the worker answers others meanwhile."""

from __future__ import annotations

import asyncio
import json
import resource
import sys
from pathlib import Path
from typing import Any

from valleylight.core.errors import InputError, NotFoundError

#: What one file may take, in bytes of memory and in seconds.
MEMORY_BYTES, SECONDS = 6 * 2**30, 120
#: So many files are tried at once; further ones wait their turn.
AT_ONCE = 2
_turns = asyncio.Semaphore(AT_ONCE)


def converted(path: Path) -> Path:
    """Where the trial of a model leaves it as it is to be kept."""
    return path.with_name(path.name + ".glb")


async def tried(what: str, path: Path, name: str) -> dict[str, Any]:
    """What is in a file: `what` is "model" or "picture". Raises InputError that names the file, also where it takes too much."""
    async with _turns:
        child = await asyncio.create_subprocess_exec(
            sys.executable, "-m", "valleylight.server.web.trial", what, str(path), name,
            stdout=asyncio.subprocess.PIPE, stderr=asyncio.subprocess.DEVNULL,
        )  # fmt: skip
        try:
            out, _ = await asyncio.wait_for(child.communicate(), SECONDS)
        except TimeoutError:
            raise InputError(
                f"reading it takes longer than {SECONDS} s", name, "Make it smaller, or split it; nothing was stored"
            ) from None
        finally:
            if child.returncode is None:
                child.kill()
                await child.wait()
    try:
        answer = json.loads(out)
    except ValueError:
        raise InputError(
            f"reading it takes more than {MEMORY_BYTES // 2**30} GB of memory, or it is damaged", name,
            "Export it anew, or make it smaller; nothing was stored",
        ) from None  # fmt: skip
    if "refused" in answer:
        missing, *words = answer["refused"]
        raise (NotFoundError if missing else InputError)(*words)
    return dict(answer["found"])


def main(what: str, path: str, name: str) -> None:
    """Body of the process."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    answer: dict[str, Any]
    try:
        data = Path(path).read_bytes()
        found = _model(data, name, Path(path)) if what == "model" else _picture(data, name)
        answer = {"found": found}
    except InputError as error:
        answer = {"refused": (type(error) is NotFoundError, error.what, error.where, error.remedy)}
    except MemoryError:
        return  # told by having said nothing
    sys.stdout.write(json.dumps(answer))


def _model(data: bytes, name: str, path: Path) -> dict[str, Any]:
    """Writes the model as it is kept beside the file, under `converted`."""
    from valleylight.core.stage.arrival import arrive
    from valleylight.server.found import stage_figures

    made = arrive(data, name)
    converted(path).write_bytes(made.glb)
    return {**stage_figures(made.stage), "scale": made.scale}


def _picture(data: bytes, name: str) -> dict[str, Any]:
    from valleylight.server.found import picture_figures

    return picture_figures(data, name)


if __name__ == "__main__":
    main(*sys.argv[1:4])
