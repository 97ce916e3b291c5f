"""How quickly cut-outs are laid in and pictures are drawn, on the demo's exterior at 1280 x 720."""

from __future__ import annotations

import time
from collections.abc import Callable

from valleylight.core.compose.composer import Composer
from valleylight.core.compose.offers import OFFERS
from valleylight.core.compose.sprites import Sprites
from valleylight.core.finish.look import apply
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.cutout import CutOut
from valleylight.core.project.description import Look, Occasion, View
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import PROOF
from valleylight.core.treatments.hatching import Hatching
from valleylight.core.treatments.ink_lines import InkLines
from valleylight.core.treatments.tone_curve import ToneCurve
from valleylight.core.treatments.watercolour import Watercolour

CUTOUTS = 20


def figures(project: LoadedProject, compiler: Compiler, view: View, occasion: Occasion) -> dict[str, float]:
    """`compose_s`: cut-outs with both shadows laid on a film whose light is measured; `compose_drag_s`: one of them carried; `drawn_s`: the
    slower of two drawn looks."""
    people = [o for o in OFFERS if o.group == "People"]
    stood = tuple(
        CutOut(key=f"c{k}", name=o.name, view=view.key, made=o.made, height_m=o.height_m, turn_deg=40.0 * k % 180, place=(4.0 + 0.7 * k, -3.4 + 0.4 * (k % 3), -0.02))
        for k, o in enumerate((people * 2)[:CUTOUTS])
    )  # fmt: skip
    film = render(project, view, occasion, 1280, 720, 4, 1, PROOF, compiler=compiler)
    scene = compiler.scene(project, view, occasion, 1280, 720, 1, PROOF)
    composer, gains = Composer(Sprites(project.asset)), occasion.light_levels()
    linear = film.balanced(gains)

    def lay(cutouts: tuple[CutOut, ...], hold: bool = False) -> None:
        description = project.description.model_copy(update={"cutouts": cutouts})
        found = composer.laid(description, scene, film, view, occasion, hold=hold)
        assert found is not None
        found.on_sum(linear, film, gains)

    lay(stood)
    # All turned: each is laid anew, in the light that was measured.
    turned = tuple(c.model_copy(update={"turn_deg": c.turn_deg + 1}) for c in stood)
    carried = [(turned[0].model_copy(update={"place": (x, -3.1, -0.02)}), *turned[1:]) for x in (4.3, 4.4)]
    drawn = [(ToneCurve(), Watercolour(), InkLines()), (ToneCurve(), Hatching(), InkLines())]
    looks = [Look(treatments=treatments) for treatments in drawn]
    for look in looks:
        apply(film, look, gains)
    compose_s = _seconds(lambda: lay(turned))
    lay(carried[0], hold=True)
    return {
        "compose_s": compose_s, "compose_drag_s": _seconds(lambda: lay(carried[1], hold=True)),
        "drawn_s": max(_seconds(lambda look=look: apply(film, look, gains)) for look in looks),  # type: ignore[misc]
    }  # fmt: skip


def _seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start
