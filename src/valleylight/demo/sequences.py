"""Sequences of Tarn Mill: a walk through the reading room, a day of sun on the mill, the lamps coming on."""

from __future__ import annotations

from valleylight.core.project.sequence import LightCue, Sequence, Station


def sequences() -> tuple[Sequence, ...]:
    """The sequences of the demo."""
    return (
        Sequence(
            key="through-the-room", name="Through the reading room", view="long-view", occasion="june-morning", seconds=6.0,
            stations=(
                Station(position=(1.6, 3.2, 1.5), target=(15.9, 4.0, 1.6), focal_mm=20),
                Station(position=(4.6, 3.3, 1.5), target=(16.2, 3.8, 1.55), focal_mm=20.5),
                Station(position=(7.6, 3.45, 1.5), target=(16.6, 3.0, 1.5), focal_mm=21.5),
            ),
        ),
        Sequence(
            key="a-day-of-sun", name="A day of sun", view="from-the-pond", occasion="june-morning", seconds=8.0, hours=(5.5, 21.0), follows=0.85, drift_m=(2400.0, 700.0), width=960,
        ),
        Sequence(
            key="lamps-come-on", name="The lamps come on", view="long-view", occasion="winter-dusk", seconds=5.0,
            cues=(LightCue(at=0.1, scene="closing"), LightCue(at=0.9, scene="reading")),
        ),
    )  # fmt: skip
