"""The stage: a large model from its file to a first picture, ten thousand trees, a chair that is moved."""

from __future__ import annotations

import hashlib
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from pathlib import Path

import numpy as np
from PIL import Image

from valleylight.core.film.denoise import clean_picture
from valleylight.core.film.film import Film
from valleylight.core.making.glb import Model, Surface, Thing, write_glb
from valleylight.core.making.shapes import heightfield, polygon
from valleylight.core.objects import family_of, made
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Made, Occasion, Placement, Project, View
from valleylight.core.project.repeats import Strewn
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import DRAFT, SKETCH, Quality

SIZE = (480, 270)
TREES, FIELD_M = 10_000, 800.0
MOVES = 7


def large_glb(triangles: int = 1_000_000, pictures: int = 10, side: int = 2048) -> bytes:
    """Ten rolling grounds side by side, each with a picture of its own."""
    model, rng = Model(), np.random.default_rng(3)
    n = round((triangles / pictures / 2) ** 0.5) + 1
    x = np.linspace(0, 10, n)
    for k in range(pictures):
        small = rng.integers(40, 200, (side // 8, side // 8, 3), dtype=np.uint8)
        picture = np.asarray(Image.fromarray(small).resize((side, side), Image.Resampling.BICUBIC))
        model.surface(Surface(f"ground {k}", texture=picture, texture_m=10.0))
        z = 0.3 * np.sin(x[None] * 2 + k) * np.cos(x[:, None] * 3)
        model.put(Thing(f"ground {k}").add(f"ground {k}", heightfield(x, x, z).moved([10.0 * k, 0, 0])))
    return write_glb(model)


def import_figures() -> tuple[float, float]:
    """Seconds from a file of a million triangles with ten pictures to a first picture, through the check of an upload in a process of
    its own; and the greatest memory of that process over the size of the file."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.glb"
        path.write_bytes(large_glb())
        seconds, peak = json.loads(
            subprocess.check_output(
                [sys.executable, "-m", "benchmarks.stage", str(path)], cwd=Path(__file__).parents[1]
            )
        )
        return seconds, peak / path.stat().st_size


def _imported(path: Path) -> None:
    from valleylight.server.web import trial

    start = time.perf_counter()
    child = subprocess.run(
        [sys.executable, "-c", f"import resource, sys; from valleylight.server.web import trial; trial.main('model', {str(path)!r}, 'large.glb');"
         "sys.stderr.write(str(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss))"],
        input=b"{}", capture_output=True, check=True,
    )  # fmt: skip
    kept = trial.converted(path).read_bytes()
    view = View(key="v", name="v", position=(50, -40, 25), target=(50, 5, 0), keep_verticals=False)
    _first_picture(_project({"large": kept}, [Placement(key="m", name="m", asset=_sha(kept))], view), Compiler())
    print(json.dumps([time.perf_counter() - start, int(child.stderr.split()[-1]) * 1024]))


def strewn_figures(pool: ThreadPoolExecutor) -> tuple[float, float]:
    """Seconds from ten thousand strewn trees to a first picture; and rays a second with them over without."""
    tree = made(family_of("maple"), {})
    model = Model()
    model.surface(Surface("meadow", (0.12, 0.16, 0.07)))
    a = FIELD_M
    model.put(Thing("meadow").add("meadow", polygon([(-a, -a, 0), (a, -a, 0), (a, a, 0), (-a, a, 0)])))
    ground = write_glb(model)
    half = FIELD_M / 2
    outline = ((-half, -half), (half, -half), (half, half), (-half, half))
    repeat = Strewn(outline=outline, density_m2=TREES / FIELD_M**2)
    meadow = Placement(key="g", name="g", asset=_sha(ground))
    trees = Placement(key="t", name="t", asset=_sha(tree), made=Made(family="maple"), repeat=repeat)
    view = View(key="v", name="v", position=(0, -half, 12), target=(0, 0, 4), keep_verticals=False)
    bare, wooded = (_project({"g": ground, "t": tree}, things, view) for things in ([meadow], [meadow, trees]))
    _first_picture(bare, Compiler())
    start = time.perf_counter()
    compiler = Compiler()
    _first_picture(wooded, compiler)
    seconds = time.perf_counter() - start
    rates = []
    for project, known in ((bare, Compiler()), (wooded, compiler)):
        scene, film = _scene(project, known)
        trace(scene, film, 0, 1, pool)
        times = []
        for k in range(3):
            begin = time.perf_counter()
            rays = trace(scene, film, 1 + 2 * k, 3 + 2 * k, pool) or 0
            times.append(rays / (time.perf_counter() - begin))
        rates.append(statistics.median(times))
    return seconds, rates[1] / rates[0]


def move_object_s(
    project: LoadedProject, compiler: Compiler, view: View, occasion: Occasion, pool: ThreadPoolExecutor
) -> float:
    """Median seconds from an armchair moved in the demo's reading room to the next clean picture of 480 x 270, as a drag shows it."""
    chair = made(family_of("armchair"), {})
    sha, times = _sha(chair), []
    for k in range(MOVES):
        thing = Placement(
            key="c", name="Armchair", asset=sha, position=(5.0 + 0.1 * k, 3.8, 0.0), made=Made(family="armchair")
        )
        wanted = project.description.model_copy(update={"placements": (*project.description.placements, thing)})
        moved = LoadedProject(wanted, lambda asked: chair if asked == sha else project.asset(asked))
        start = time.perf_counter()
        _first_picture(moved, compiler, view, occasion, pool, DRAFT)
        times.append(time.perf_counter() - start)
    return statistics.median(times[2:])


def _project(files: dict[str, bytes], things: list[Placement], view: View) -> LoadedProject:
    known = {_sha(data): data for data in files.values()}
    day = Occasion(key="o", name="o", when=datetime(2026, 6, 21, 13))
    wanted = Project(name="p", placements=tuple(things), views=(view,), occasions=(day,))
    return LoadedProject(wanted, known.__getitem__)


def _scene(
    project: LoadedProject, compiler: Compiler, view: View | None = None, occasion: Occasion | None = None, quality: Quality = SKETCH
) -> tuple[RenderScene, Film]:  # fmt: skip
    view, occasion = view or project.description.views[0], occasion or project.description.occasions[0]
    scene = compiler.scene(project, view, occasion, *SIZE, 1, quality)
    return scene, new_film(scene, view, occasion, *SIZE)


def _first_picture(
    project: LoadedProject, compiler: Compiler, view: View | None = None, occasion: Occasion | None = None, pool: ThreadPoolExecutor | None = None,
    quality: Quality = SKETCH,
) -> None:  # fmt: skip
    scene, film = _scene(project, compiler, view, occasion, quality)
    if pool is None:
        with ThreadPoolExecutor(os.cpu_count() or 1) as own:
            trace(scene, film, 0, 1, own)
    else:
        trace(scene, film, 0, 1, pool)
    clean_picture(film.balanced(), *film.guides, "fast")


def _sha(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


if __name__ == "__main__":
    _imported(Path(sys.argv[1]))
