"""Files are tried before they are kept, in a process of their own: one that is too much for the machine, or for a library, ends
there, with a budget of memory and time; the worker answers others meanwhile."""

from __future__ import annotations

import asyncio
import contextlib
import json
import resource
import sys
from pathlib import Path
from typing import Any

from valleylight.core.errors import InputError, NotFoundError
from valleylight.server.web.underway import Underway

#: What one file may take, in bytes of memory and in seconds.
MEMORY_BYTES, SECONDS = 6 * 2**30, 120
#: So many files are tried at once; further ones wait their turn.
AT_ONCE = 2
#: How lines begin that tell how far a trial is; and how long the line of its answer may be.
_TOLD, LONGEST_LINE = b"told ", 2**28
_turns = asyncio.Semaphore(AT_ONCE)


def converted(path: Path) -> Path:
    """Where the trial of a model leaves it as it is to be kept."""
    return path.with_name(path.name + ".glb")


def of_channel(path: Path, channel: str) -> Path:
    """Where the trial of a surface leaves its picture of a channel as it is to be kept."""
    return path.with_name(f"{path.name}.{channel}.png")


async def tried(
    what: str, path: Path, name: str, beside: dict[str, Any] | None = None, underway: Underway | None = None
) -> dict[str, Any]:
    """What is in a file: `what` is one of `TRIALS`. Raises InputError that names the file, also where it takes too much or is stopped.

    For a model, `beside` may name where the project stands (`where`), the file of what it stands in for (`before`) and the materials that were dressed (`dressed`);
    for a texture it names its channel. `underway` is told how far it is, and may stop it."""
    told = underway or Underway()
    async with _turns:
        told.check(name)  # it may have been stopped while others had their turn
        child = await asyncio.create_subprocess_exec(
            sys.executable, "-m", "valleylight.server.web.trial", what, str(path), name,
            stdin=asyncio.subprocess.PIPE, stdout=asyncio.subprocess.PIPE, stderr=asyncio.subprocess.DEVNULL, limit=LONGEST_LINE,
        )  # fmt: skip
        answer = asyncio.create_task(_answer_of(child, beside or {}, told))
        stop = asyncio.create_task(told.stopped.wait())
        try:
            done, _ = await asyncio.wait((answer, stop), timeout=SECONDS, return_when=asyncio.FIRST_COMPLETED)
            told.check(name)
            if answer not in done:
                raise InputError(
                    f"reading it takes longer than {SECONDS} s", name, "Make it smaller, or split it; nothing was stored"
                )
            out = answer.result()
        finally:
            answer.cancel()
            stop.cancel()
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


async def _answer_of(child: asyncio.subprocess.Process, beside: dict[str, Any], told: Underway) -> bytes:
    """The last line of what the process says; those before it tell how far it is."""
    assert child.stdin is not None and child.stdout is not None
    with contextlib.suppress(ConnectionError):  # it may have ended already, and says why itself
        child.stdin.write(json.dumps(beside).encode())
        await child.stdin.drain()
        child.stdin.close()
    last = b""
    async for line in child.stdout:
        if line.startswith(_TOLD):
            told.tell(*json.loads(line[len(_TOLD) :]))
        else:
            last = line
    await child.wait()
    return last


def _tell(words: str, share: float) -> None:
    sys.stdout.write(f"{_TOLD.decode()}{json.dumps([words, share])}\n")
    sys.stdout.flush()


def main(what: str, path: str, name: str) -> None:
    """Body of the process."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    answer: dict[str, Any]
    try:
        data = Path(path).read_bytes()
        beside = json.load(sys.stdin)
        answer = {"found": TRIALS[what](data, name, Path(path), beside)}
    except InputError as error:
        answer = {"refused": (type(error) is NotFoundError, error.what, error.where, error.remedy)}
    except MemoryError:
        return  # told by having said nothing
    sys.stdout.write(json.dumps(answer))


def _model(data: bytes, name: str, path: Path, beside: dict[str, Any]) -> dict[str, Any]:
    """The arrival sheet of a model. Writes the model as it is kept beside the file, under `converted`."""
    from valleylight.core.stage import read_glb
    from valleylight.core.stage.arrival import arrive, sheet_of
    from valleylight.core.stage.arrival.terrain import Where

    where = Where(**beside["where"]) if beside.get("where") else None
    made = arrive(data, name, _tell, where)
    converted(path).write_bytes(made.glb)
    before = read_glb(Path(beside["before"]).read_bytes(), "the one before") if beside.get("before") else None
    _tell("Looking it over", 0.75)
    sheet = sheet_of(made.stage, name, made.metres, before, tuple(beside.get("dressed", ())), made.land)
    return sheet.model_dump(mode="json")


def _picture(data: bytes, name: str, path: Path, beside: dict[str, Any]) -> dict[str, Any]:
    from valleylight.server.found import picture_figures

    return picture_figures(data, name)


def _texture(data: bytes, name: str, path: Path, beside: dict[str, Any]) -> dict[str, Any]:
    """A picture of one channel of a surface (`channel`), as it is kept, beside the file."""
    from valleylight.core.stage.channels import kept_picture

    made = kept_picture(data, name, beside["channel"])
    of_channel(path, beside["channel"]).write_bytes(made.png)
    return {"width": made.width, "height": made.height, "words": list(made.words)}


def _surface(data: bytes, name: str, path: Path, beside: dict[str, Any]) -> dict[str, Any]:
    """A surface with its pictures, as they are kept, beside the file."""
    from valleylight.core.stage.exchange import taken_surface

    made = taken_surface(data, name)
    for channel, picture in made.pictures.items():
        of_channel(path, channel).write_bytes(picture.png)
    return {
        "name": made.name, "surface": made.surface.model_dump(mode="json"), "channels": list(made.pictures), "words": list(made.words),
    }  # fmt: skip


def _cutout(data: bytes, name: str, path: Path, beside: dict[str, Any]) -> dict[str, Any]:
    """A picture of a cut-out, as it is kept, beside the file; a plain `ground` is taken out of it."""
    from valleylight.core.compose.sprite import png_of, sprite_of_picture

    made = sprite_of_picture(data, name, beside.get("ground"))
    of_channel(path, "cutout").write_bytes(png_of(made))
    rows, columns = made.size
    return {"width": columns, "height": rows}


def _print_profile(data: bytes, name: str, path: Path, beside: dict[str, Any]) -> dict[str, Any]:
    from valleylight.core.finish.readings import check_profile

    return {"name": check_profile(data)}


TRIALS = {"model": _model, "picture": _picture, "texture": _texture, "surface": _surface, "cutout": _cutout, "print profile": _print_profile}


if __name__ == "__main__":
    main(*sys.argv[1:4])
