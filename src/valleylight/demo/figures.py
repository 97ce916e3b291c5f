"""People in the pictures of Tarn Mill: a June morning by the water, two under umbrellas after rain, dusk, an evening of readers."""

from __future__ import annotations

from valleylight.core.compose.offers import OFFERS
from valleylight.core.project.cutout import CutOut, Manner

#: Occasions of the demo.
_EVERY = ("june-morning", "september-mist", "october-overcast", "winter-dusk", "july-night")
_TERRACE, _FLOOR = -0.018, 0.0

#: View, occasion, which cut-out, place in m, and which way it faces in degrees.
_STAND: tuple[tuple[str, str, str, tuple[float, float, float], float], ...] = (
    ("from-the-pond", "june-morning", "person-walking-dress", (4.6, -3.2, _TERRACE), 80),
    ("from-the-pond", "june-morning", "person-in-talk", (9.2, -3.6, _TERRACE), 70),
    ("from-the-pond", "june-morning", "person-in-talk-dress", (9.95, -3.1, _TERRACE), -110),
    ("from-the-pond", "june-morning", "person-child-standing", (12.3, -4.2, _TERRACE), 30),
    ("from-the-pond", "june-morning", "person-looking-up", (13.2, -3.4, _TERRACE), 150),
    ("from-the-pond", "june-morning", "person-standing-skirt", (15.3, -3.2, _TERRACE), 20),
    ("from-the-pond", "june-morning", "person-walking-jacket", (17.2, -3.6, _TERRACE), -70),
    ("from-the-pond", "june-morning", "person-with-a-bag", (19.4, -5.9, -0.18), -70),
    ("from-the-lane", "october-overcast", "person-under-an-umbrella", (-6.2, -1.4, -0.095), 60),
    ("from-the-lane", "october-overcast", "person-under-an-umbrella-dress", (-5.3, -1.0, -0.14), 70),
    ("from-the-lane", "october-overcast", "person-walking-long-coat", (1.6, -3.2, _TERRACE), -100),
    ("long-view", "winter-dusk", "person-standing", (7.4, 3.3, _FLOOR), 120),
    ("long-view", "winter-dusk", "person-walking-long-coat", (11.5, 4.4, _FLOOR), -60),
    ("from-the-pond", "winter-dusk", "person-in-talk", (8.2, -3.4, _TERRACE), 60),
    ("from-the-pond", "winter-dusk", "person-walking-long-coat", (14.4, -3.6, _TERRACE), 80),
)


def figures() -> tuple[CutOut, ...]:
    """The cut-outs of the demo, each there at its occasion alone."""
    offers = {offer.key: offer for offer in OFFERS}
    made: list[CutOut] = []
    for view, occasion, key, place, turn in _STAND:
        offer = offers[key]
        manner: Manner = "silhouette" if (view, occasion) == ("from-the-pond", "winter-dusk") else "lit"
        made.append(
            CutOut(
                key=f"{key}-{len(made) + 1}", name=f"{offer.name} {len(made) + 1}", view=view, made=offer.made, place=place, turn_deg=turn,
                height_m=offer.height_m, manner=manner, hidden_at=tuple(o for o in _EVERY if o != occasion),
            )
        )  # fmt: skip
    return tuple(made)
