"""The command line behind ./valleylight: demo, serve, render, bench and the pieces they need."""

from __future__ import annotations

import argparse
import fcntl
import json
import signal
import socket
import sys
import time
from datetime import datetime
from pathlib import Path
from typing import IO, TYPE_CHECKING, Any

from valleylight.core.errors import InputError, NotFoundError
from valleylight.server.settings import ROOT, Settings, settings

if TYPE_CHECKING:
    from valleylight.core.project.description import Occasion
    from valleylight.server.store.mariadb import PrivateMariaDB


def main(arguments: list[str] | None = None) -> int:
    """Run a command; returns the exit status."""
    parser = argparse.ArgumentParser(prog="valleylight", description="A lighting studio for architectural pictures.")
    commands = parser.add_subparsers(dest="command", required=True)
    for name, text in (("demo", "start with the demo project"), ("serve", "start without demo data")):
        sub = commands.add_parser(name, help=text)
        sub.add_argument("--port", help="port to listen on (default: 8600)")
        sub.add_argument("--host", help="address to listen on (default: this machine only)")
        sub.add_argument("--var", help="folder for database and files (default: var, beside src)")
    render = commands.add_parser("render", help="make a picture without the browser")
    render.add_argument("project", help="slug of a project in the database, or a project folder or archive")
    render.add_argument("view")
    render.add_argument("occasion")
    render.add_argument("--quality", choices=("sketch", "proof", "press"), default="proof")
    render.add_argument("--width", type=int, help="pixels across (default: as many in all as the quality has)")
    render.add_argument("--seed", type=int, default=1)
    render.add_argument("--height", type=int, help="pixels down (default: by the format of the view)")
    render.add_argument("--samples", type=int, help="samples a pixel at most (default: those of the quality)")
    render.add_argument("--noise", type=float, default=None, help="leave parts alone once their noise is below this")
    render.add_argument("--region", help="trace only left,top,right,bottom, as shares of the picture")
    render.add_argument("--bands", action="store_true", help="hold only a band at a time: for .exr up to 8192 x 8192")
    render.add_argument(
        "--hours", help="a moving sun: FROM-TO as 6:00-20:30, with --frames pictures numbered in their names"
    )
    render.add_argument("--frames", type=int, default=15, help="pictures between the two --hours")
    render.add_argument("-o", "--output", type=Path, required=True, help="a .png, or .exr for the linear film")
    render.add_argument("--var", help="folder for database and files (default: var, beside src)")
    commands.add_parser("compile", help="compile the kernels, with progress")
    bench = commands.add_parser("bench", help="measure speed on the demo's reading room")
    bench.add_argument("--json", action="store_true")
    commands.add_parser("validate", help="check the tracer against closed forms and write docs/validation.md")
    house = commands.add_parser("orchard-house", help="write the demo's second house, as its architect would send it")
    house.add_argument("file", nargs="?", default="orchard-house.ifc", help="where to write the IFC")
    commands.add_parser("openapi", help="print the API's OpenAPI document")
    options = parser.parse_args(arguments)
    try:
        return {
            "demo": _serve, "serve": _serve, "render": _render, "compile": _compile, "bench": _bench, "openapi": _openapi,
            "validate": _validate, "orchard-house": _orchard_house,
        }[options.command](options)  # fmt: skip
    except InputError as error:
        print(f"valleylight: {error}", file=sys.stderr)
        return 2


def _orchard_house(options: argparse.Namespace) -> int:
    from valleylight.demo.orchard_house import make_ifc

    Path(options.file).write_bytes(make_ifc())
    print(f"{options.file} is written: drop it on the wall of a new project.")
    return 0


def _validate(options: argparse.Namespace) -> int:
    """Run every case, write the table, and fail where one does not hold."""
    from valleylight.validation import all_cases, table

    results = []
    for item in all_cases():
        print(f"  {item.name}", file=sys.stderr, flush=True)
        results.append((item, item.run()))
    (ROOT / "docs" / "validation.md").write_text(table(results))
    bad = [f"{item.name}: {o.quantity}" for item, outcomes in results for o in outcomes if not o.holds]
    for line in bad:
        print(f"  does not hold: {line}", file=sys.stderr)
    return 1 if bad else 0


def _settings(options: argparse.Namespace) -> Settings:
    """What the command line says, then the environment, then what holds without."""
    named = {name: getattr(options, name, None) for name in ("host", "port", "var")}
    return settings(**{name: value for name, value in named.items() if value is not None})


def _database(wanted: Settings) -> tuple[Settings, PrivateMariaDB | None]:
    """Settings that name a database that runs, and what to stop at the end (None for one that exists already)."""
    if wanted.database_url:
        return wanted, None
    from valleylight.server.store.mariadb import PrivateMariaDB

    server = PrivateMariaDB(wanted.var / "mariadb")
    return wanted.model_copy(update={"database_url": server.start()}), server


def _serve(options: argparse.Namespace) -> int:
    import uvicorn

    from valleylight.server import logs
    from valleylight.server.store import migrations, tables
    from valleylight.server.web.app import create_app

    def interrupted(*_: object) -> None:
        raise KeyboardInterrupt

    wanted = _settings(options)
    logs.install(wanted)
    signal.signal(signal.SIGTERM, interrupted)
    _check_port(wanted.host, wanted.port)
    database, lock = None, _lock(wanted.var)
    try:
        _say("Starting the database")
        wanted, database = _database(wanted)
        if database is not None:
            database.watch()
        pool = tables.connect(wanted.database_url)
        with pool.connection_context():
            for step in migrations.migrate(pool):
                _say(f"Database: {step}")
            _compile(options)
            if options.command == "demo":
                _make_demo(wanted)
        pool.close_all()
        at = f"http://{wanted.host}:{wanted.port}"
        led = f"Led round in six notes: {at}/?first-steps=1\n" if options.command == "demo" else ""
        print(f"\nValleylight is at {at}\n{led}Stop it with Ctrl-C.\n", flush=True)
        server = uvicorn.Server(
            uvicorn.Config(
                create_app(wanted), host=wanted.host, port=wanted.port, log_config=None, access_log=False,
                ws_max_size=2**22, timeout_graceful_shutdown=3,
            )
        )  # fmt: skip
        server.run()
        return 0 if server.started else 1
    except KeyboardInterrupt:
        return 0
    finally:
        if database is not None:
            database.stop(left_over=True)
        lock.close()


def _check_port(host: str, port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise InputError(f"cannot listen on {host}:{port} ({error.strerror})", "--port", "Choose another") from None


def _lock(var: Path) -> IO[str]:
    """Hold the folder for this server. Raises InputError when another one has it."""
    var.mkdir(parents=True, exist_ok=True)
    held = (var / "server.lock").open("w")
    try:
        fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        held.close()
        raise InputError(
            "another Valleylight runs on this folder", str(var), "Stop it first, or name another with --var"
        ) from None
    return held


def _make_demo(wanted: Settings) -> None:
    """Store each project of the demo once, and queue a sketch of every cell of its wall."""
    from valleylight.demo import more_profiles, orchard_project, tarn_mill
    from valleylight.server.store import storage
    from valleylight.server.store.files import FileStore
    from valleylight.server.store.tables import ProjectRow
    from valleylight.server.web import catalogue
    from valleylight.server.web.routes.plates import enqueue
    from valleylight.server.web.schemas.plates import NewPlate

    files = FileStore(wanted.files)
    for project in (tarn_mill, orchard_project):
        if ProjectRow.select().where(ProjectRow.name == project.NAME).exists():
            continue
        loaded = project.create(_say)
        row = storage.create_project("", loaded, files)
        catalogue.list_unlisted(files)
        if project is tarn_mill:
            for name, data in more_profiles.files():
                catalogue.take(files, data, name)
        for occasion in loaded.description.occasions:
            for view in loaded.description.views:
                enqueue(row, NewPlate(view=view.key, occasion=occasion.key, quality="sketch"), wanted)
        _say(f"The demo project {project.NAME} is ready; its first plates are made while you look")


def _compile(options: argparse.Namespace) -> int:
    from valleylight.core.warmup import compile_kernels

    start = time.monotonic()
    for number, total, what in compile_kernels():
        _say(f"Preparing the tracer {number}/{total}: {what}")
    _say(f"Tracer ready after {time.monotonic() - start:.1f} s")
    return 0


def _render(options: argparse.Namespace) -> int:
    from dataclasses import replace

    from valleylight.core import finish, project
    from valleylight.core.film import remove_noise
    from valleylight.core.film.exr import write_exr
    from valleylight.core.film.png import png
    from valleylight.core.finish.balance import balance_of
    from valleylight.core.project.captions import caption_of
    from valleylight.core.trace.bands import render_to_exr
    from valleylight.core.trace.render import render
    from valleylight.core.trace.scene.compiler import Compiler
    from valleylight.core.trace.scene.quality import QUALITIES

    if options.output.suffix.lower() not in (".png", ".exr"):
        raise InputError(
            f"{options.output.suffix or 'no ending'} cannot be written", "--output", "Name a .png or .exr file"
        )
    if not options.output.resolve().parent.is_dir():
        raise InputError("the folder does not exist", str(options.output.resolve().parent), "Create it first")
    path, database = Path(options.project), None
    try:
        if path.exists():
            loaded = project.load(path)
        else:
            loaded, database = _from_database(options)
        view, occasion = loaded.description.view(options.view), loaded.description.occasion(options.occasion)
        quality = QUALITIES[options.quality]
        samples = options.samples or quality.samples
        width, height = view.pixels(quality.width)
        if options.width:
            width, height = options.width, max(round(options.width / view.aspect), 1)
        height = options.height or height
        clean = "high" if options.quality == "press" else "balanced"
        start = time.monotonic()

        def progress(done: int, _: object) -> bool:
            spent = time.monotonic() - start
            _say(f"{done} of {samples} samples, about {spent / done * (samples - done):.0f} s left")
            return True

        if options.bands:
            if options.output.suffix.lower() != ".exr":
                raise InputError("bands are written as .exr only", "--bands", "Name an .exr file")

            def banded(share: float) -> bool:
                spent = time.monotonic() - start
                _say(f"{share * 100:.0f} percent, about {spent / share * (1 - share):.0f} s left")
                return True

            render_to_exr(
                loaded, options.view, options.occasion, width, height, samples, options.output, options.seed, quality, clean,
                progress=banded,
            )  # fmt: skip
            _say(f"Wrote {options.output} in {time.monotonic() - start:.0f} s")
            return 0
        compiler = Compiler()
        for moment, output in _moments(occasion, options):
            start = time.monotonic()
            film = render(
                loaded, view, moment, width, height, samples, options.seed, replace(quality, width=width), compiler=compiler,
                progress=progress, noise=quality.noise if options.noise is None else options.noise,
                region=_region(options.region),
            )  # fmt: skip
            _say("Removing noise")
            remove_noise(film, clean)
            caption = caption_of(loaded.description, view, moment)
            if output.suffix.lower() == ".exr":
                write_exr(film, output, balance_of(moment).gains(film), caption)
            else:
                look = loaded.description.look_for(view, moment)
                picture = finish.apply(
                    film, look, balance_of(moment).gains(film), seen=finish.seen_of(film, look, loaded.asset)
                )
                output.write_bytes(png(picture, caption))
            _say(f"Wrote {output} in {time.monotonic() - start:.0f} s")
        return 0
    finally:
        if database is not None:
            database.stop()


def _moments(occasion: Occasion, options: argparse.Namespace) -> list[tuple[Occasion, Path]]:
    """The occasion and the file to write; with --hours one for each frame of a moving sun. Raises InputError."""
    if options.hours is None:
        return [(occasion, options.output)]
    try:
        first, last = (datetime.strptime(t.strip(), "%H:%M") for t in options.hours.split("-"))
    except ValueError:
        raise InputError(f"{options.hours!r} is no span of hours", "--hours", "Give it as 6:00-20:30") from None
    if not (first < last and 2 <= options.frames <= 2000):
        raise InputError(
            "the span is empty, or there are too few or too many frames", "--hours",
            "Let it run forward in one day, with 2 to 2000 --frames",
        )  # fmt: skip
    made = []
    for k in range(options.frames):
        when = first + (last - first) * k / (options.frames - 1)
        moment = occasion.when.replace(hour=when.hour, minute=when.minute, second=when.second)
        name = f"{options.output.stem}-{k + 1:04d}{options.output.suffix}"
        made.append((occasion.model_copy(update={"when": moment}), options.output.with_name(name)))
    return made


def _region(text: str | None) -> tuple[float, float, float, float] | None:
    """A region of interest as typed. Raises InputError for anything but four numbers."""
    if text is None:
        return None
    try:
        left, top, right, bottom = (float(part) for part in text.split(","))
    except ValueError:
        raise InputError(
            f"{text!r} is no region", "--region", "Give left,top,right,bottom such as 0.2,0.3,0.6,0.7"
        ) from None
    return left, top, right, bottom


def _from_database(options: argparse.Namespace) -> tuple[Any, Any]:
    from valleylight.core.project.archive import LoadedProject
    from valleylight.server.store import migrations, storage, tables
    from valleylight.server.store.files import FileStore

    wanted = _settings(options)
    if not wanted.database_url and not wanted.files.is_dir():
        raise NotFoundError(
            f"there is no project {options.project!r}",
            "project",
            "Run ./valleylight demo first, or name a project archive",
        )
    wanted, database = _database(wanted)
    try:
        pool = tables.connect(wanted.database_url)
        with pool.connection_context():
            migrations.migrate(pool)
            row = storage.project_row(options.project)
            return LoadedProject(storage.description(row), FileStore(wanted.files).read), database
    except BaseException:
        if database is not None:
            database.stop()
        raise


def _bench(options: argparse.Namespace) -> int:
    sys.path.insert(0, str(ROOT))
    from benchmarks.bench import measure, table

    figures = measure(lambda text: print(text, file=sys.stderr, flush=True))
    print(json.dumps(figures, indent=1) if options.json else table(figures))
    return 0


def _openapi(_: argparse.Namespace) -> int:
    from valleylight.server.web.app import create_app

    app = create_app(Settings(database_url="mysql://none/none"))
    print(json.dumps(app.openapi(), indent=1, sort_keys=True))
    return 0


def _say(text: str) -> None:
    print(f"  {text}", flush=True)
