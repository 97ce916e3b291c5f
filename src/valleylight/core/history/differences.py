"""What differs between two states of a picture's settings, in words: what a photographer would say of two prints."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from valleylight.core.history.steps import Step, blocks
from valleylight.core.lens.stops import Ring, written
from valleylight.core.project.description import RESERVED_GROUPS, Occasion, Project, View
from valleylight.core.project.suns import place_of_sun
from valleylight.core.project.weather import Weather
from valleylight.core.treatments import Treatment, form_of

#: What the steps are called, for what no sentence of its own tells.
NAMES: dict[Step, str] = {
    "stage": "Stage", "daylight": "Daylight", "fixtures": "Fixtures", "air": "Air, season", "lens": "Lens", "finish": "Finish",
    "compose": "Compose",
}  # fmt: skip
#: Names of so many things are told; of more their number.
MOST_NAMES = 3


@dataclass(frozen=True)
class State:
    """A project as it is described, for one view at one occasion."""

    project: Project
    view: str
    occasion: str

    @property
    def of_view(self) -> View:
        return self.project.view(self.view)

    @property
    def at(self) -> Occasion:
        return self.project.occasion(self.occasion)


@dataclass(frozen=True)
class Difference:
    """One thing that the second has otherwise than the first, and the step of work at which it is set."""

    step: Step
    text: str


def differences(first: State, second: State) -> list[Difference]:
    """What the second has otherwise than the first. Raises NotFoundError for a view or an occasion that is not there."""
    words: list[tuple[Step, Iterator[str]]] = [
        ("stage", _stage(first, second)), ("daylight", _daylight(first, second)), ("fixtures", _fixtures(first, second)),
        ("air", _air(first, second)), ("lens", _lens(first, second)), ("finish", _finish(first, second)),
        ("compose", _compose(first, second)),
    ]  # fmt: skip
    sides = [blocks(s.project, s.of_view, s.at) for s in (first, second)]
    told = []
    for step, texts in words:
        found = [Difference(step, text) for text in texts]
        if not found and sides[0][step] != sides[1][step]:
            found.append(Difference(step, f"other settings of the step {NAMES[step]}"))
        told += found
    return told


def _compose(a: State, b: State) -> Iterator[str]:
    before, after = ({c.key: c for c in s.project.cutouts_at(s.view, s.occasion)} for s in (a, b))
    yield from _named([c.name for k, c in after.items() if k not in before], "{} stands in it", "{} more cut-outs")
    yield from _named([c.name for k, c in before.items() if k not in after], "without {}", "{} cut-outs fewer")
    for key, now in after.items():
        was = before.get(key)
        if was is not None and (gone := math.dist(was.place, now.place)) > 1e-3:
            yield f"{now.name} moved by {gone:.2f} m"


def _stage(a: State, b: State) -> Iterator[str]:
    before, after = ({p.key: p for p in s.project.placements} for s in (a, b))
    yield from _named([p.name for k, p in after.items() if k not in before], "{} added", "{} things added")
    yield from _named([p.name for k, p in before.items() if k not in after], "without {}", "{} things gone")
    for key, now in after.items():
        was = before.get(key)
        if was is None or was.model_copy(update={"name": now.name}) == now:
            continue
        gone = math.dist(was.position, now.position)
        turn = (now.turn_deg - was.turn_deg + 180) % 360 - 180
        parts = [f"moved by {gone:.2f} m"] if gone > 1e-3 else []
        parts += [f"turned by {abs(turn):.0f}°"] if abs(turn) > 0.5 else []
        parts += [f"{now.scale / was.scale:.2g} times as large"] if now.scale != was.scale else []
        yield f"{now.name} {' and '.join(parts) or 'changed'}"
    was_stage, stage = a.project.stage, b.project.stage
    if was_stage.white_card != stage.white_card:
        yield "all surfaces grey" if stage.white_card else "surfaces as they are, not grey"
    names = sorted(
        n for n in {*was_stage.surfaces, *stage.surfaces} if was_stage.surfaces.get(n) != stage.surfaces.get(n)
    )
    yield from _named(names, "surface {}", "{} surfaces changed", joined=True)
    rest = {"white_card": False, "surfaces": {}}
    if was_stage.model_copy(update=rest) != stage.model_copy(update=rest):
        yield "other flags of things or openings"


def _daylight(a: State, b: State) -> Iterator[str]:
    was, now = a.at, b.at
    if was.when.date() != now.when.date():
        yield f"{now.when:%-d %b %Y} instead of {was.when:%-d %b %Y}"
    if was.when.time() != now.when.time():
        yield f"{now.when:%H:%M} instead of {was.when:%H:%M}"
    site_a, site_b = a.project.site, b.project.site
    if (site_a.latitude_deg, site_a.longitude_deg) != (site_b.latitude_deg, site_b.longitude_deg):
        yield f"at {site_b.place or 'another place'} instead of {site_a.place or 'another place'}"
    if site_a.north_deg != site_b.north_deg:
        yield f"north turned by {site_b.north_deg - site_a.north_deg:+.0f}°"
    suns = [place_of_sun(s.project.site, s.at) for s in (a, b)]
    up, round_ = suns[1][1] - suns[0][1], (suns[1][0] - suns[0][0] + 180) % 360 - 180
    if abs(up) >= 0.5:
        yield f"sun {abs(up):.0f}° {'higher' if up > 0 else 'lower'}"
    if abs(round_) >= 0.5 and max(suns[0][1], suns[1][1]) > -1:
        yield f"sun {abs(round_):.0f}° further {'west' if round_ > 0 else 'east'}"
    yield from _stops("sun", was.sun.level_stops, now.sun.level_stops)
    yield from _stops("sky", was.sky.level_stops, now.sky.level_stops)
    if was.sun.kelvin != now.sun.kelvin:
        yield f"sun at {now.sun.kelvin:.0f} K" if now.sun.kelvin else "sun in its true colour"
    if was.sky.model != now.sky.model or (now.sky.model == "cie" and was.sky.cie_type != now.sky.cie_type):
        yield f"sky: {_sky(now)} instead of {_sky(was)}"
    elif was.sky.clouds != now.sky.clouds:
        yield f"clouds: {_clouds(now)} instead of {_clouds(was)}" if _clouds(now) != _clouds(was) else "clouds moved"
    if was.sky.turbidity != now.sky.turbidity:
        yield f"air {'hazier' if now.sky.turbidity > was.sky.turbidity else 'clearer'} (turbidity {now.sky.turbidity:g})"


def _sky(occasion: Occasion) -> str:
    sky = occasion.sky
    if sky.model == "cie":
        return f"CIE type {sky.cie_type}"
    return {"atmosphere": f"computed, {_clouds(occasion)}", "measured": "measured", "picture": "a picture"}[sky.model]


def _clouds(occasion: Occasion) -> str:
    clouds = occasion.sky.clouds
    if not clouds.layers:
        return "cloudless"
    return clouds.name or " and ".join(f"{layer.kind} {layer.cover:.0%}" for layer in clouds.layers)


def _fixtures(a: State, b: State) -> Iterator[str]:
    before, after = ({f.key: f for f in s.project.fixtures} for s in (a, b))
    for sign, here, there in (("more", after, before), ("fewer", before, after)):
        count = len(here.keys() - there.keys())
        if count:
            yield f"{count} {sign} fixture{'s' if count > 1 else ''}"
    moved = [k for k, f in after.items() if k in before and f != before[k]]
    if moved:
        yield f"{len(moved)} fixture{'s' if len(moved) > 1 else ''} changed"
    yield from _named(
        [k.name for k in b.project.kinds if any(o.key == k.key and o != k for o in a.project.kinds)],
        "kind {}",
        "{} kinds changed",
        True,
    )
    was, now = a.at, b.at
    for group in sorted({*a.project.groups(), *b.project.groups()}):
        yield from _stops(group, *(_stops_of(o.levels.get(group, 100.0)) for o in (was, now)))
    yield from _stops("shining surfaces", was.surfaces_stops, now.surfaces_stops)
    for name in sorted({*was.colours, *now.colours}):
        if was.colours.get(name) != now.colours.get(name):
            kelvin = now.colours.get(name)
            light = f"the {name}" if name in RESERVED_GROUPS else name
            yield f"{light} at {kelvin:.0f} K" if kelvin else f"{light} in its own colour"


def _stops_of(percent: float) -> float:
    return math.log2(percent / 100) if percent > 0 else -math.inf


def _stops(what: str, was: float, now: float) -> Iterator[str]:
    if was == now or abs(now - was) < 0.02:
        return
    if math.isinf(now) or now <= -20:
        yield f"{what} off"
    elif math.isinf(was) or was <= -20:
        yield f"{what} on" + (f" at {now:+.1f} stops".replace("-", "−") if abs(now) > 0.05 else "")
    else:
        yield f"{what} {now - was:+.1f} stops".replace("-", "−")


def _air(a: State, b: State) -> Iterator[str]:
    was, now = a.at, b.at
    if was.season != now.season:
        yield f"{now.season} instead of {was.season}"
    if was.air.on != now.air.on:
        yield "fog" if now.air.on else "no fog"
    elif now.air.on and was.air != now.air:
        times = was.air.free_path_m / now.air.free_path_m
        yield f"fog {times:.2g} times as dense" if abs(times - 1) > 0.01 else "other fog"
    if was.planting.by_date != now.planting.by_date:
        yield "leaves by the date" if now.planting.by_date else "leaves as modelled"
    elif now.planting.by_date and was.planting != now.planting:
        yield "other days for leaves"
    yield from _weather(was.weather, now.weather)
    hidden = [s.project.hidden_at(s.at) for s in (a, b)]
    names = {layer.key: layer.name for layer in (*a.project.layers, *b.project.layers)}
    yield from _named([names.get(k, k) for k in sorted(hidden[1] - hidden[0])], "{} hidden", "{} layers hidden")
    yield from _named([names.get(k, k) for k in sorted(hidden[0] - hidden[1])], "{} shown", "{} layers shown")


def _weather(was: Weather, now: Weather) -> Iterator[str]:
    """What of the weather differs, each in its own unit."""
    if was.snow.depth_cm != now.snow.depth_cm:
        yield f"{now.snow.depth_cm:g} cm of snow" if now.snow.depth_cm else "no snow"
    if was.snow.bare != now.snow.bare and now.snow.depth_cm:
        yield f"{100 * now.snow.bare:.0f} % left bare"
    if was.snow.flakes_mm_h != now.snow.flakes_mm_h:
        yield f"flakes of {now.snow.flakes_mm_h:g} mm/h" if now.snow.flakes_mm_h else "no flakes"
    if was.rain.mm_h != now.rain.mm_h:
        yield f"rain of {now.rain.mm_h:g} mm/h" if now.rain.mm_h else "no rain"
    if was.rain.wet != now.rain.wet:
        yield f"{100 * now.rain.wet:.0f} % wet" if now.rain.wet else "dry"
    if was.rain.puddles != now.rain.puddles:
        yield f"puddles {100 * now.rain.puddles:.0f} % full" if now.rain.puddles else "no puddles"
    if was.wind != now.wind:
        yield f"wind of {now.wind.speed_m_s:g} m/s" if now.wind.speed_m_s else "no wind"
    known = ("depth_cm", "bare", "flakes_mm_h"), ("mm_h", "wet", "puddles")
    rest = [
        a.model_copy(update={f: 0.0 for f in fields}) != b.model_copy(update={f: 0.0 for f in fields})
        for a, b, fields in ((was.snow, now.snow, known[0]), (was.rain, now.rain, known[1]))
    ]
    if any(rest):
        yield "other snow or rain"


def _lens(a: State, b: State) -> Iterator[str]:
    was, now = a.of_view, b.of_view
    if a.view != b.view:
        yield f"view {now.name} instead of {was.name}"
    gone = math.dist(was.position, now.position)
    if gone > 1e-3:
        yield f"lens moved by {gone:.2f} m"
    elif was.target != now.target:
        yield "lens turned"
    if was.focal_mm != now.focal_mm:
        yield f"{now.focal_mm:g} mm instead of {was.focal_mm:g} mm"
    if was.focus_m != now.focus_m:
        yield "everything sharp" if now.focus_m is None else f"focused at {now.focus_m:g} m"
    if was.format != now.format or was.film_width_mm != now.film_width_mm:
        yield f"picture cut to {now.format[0]} : {now.format[1]}"
    elif (was.shift_x, was.shift_y) != (now.shift_x, now.shift_y):
        yield "film shifted"
    if was.keep_verticals != now.keep_verticals:
        yield "verticals upright" if now.keep_verticals else "verticals converge"
    ours, theirs = b.of_view.lens_for(b.occasion), a.of_view.lens_for(a.occasion)
    light = (
        math.log2(ours.shutter_s / theirs.shutter_s)
        + math.log2(ours.iso / theirs.iso)
        - 2 * math.log2(ours.f_number / theirs.f_number)
    )
    yield from _stops("exposure", 0.0, light)
    rings: tuple[tuple[Ring, float, float], ...] = (
        ("f_number", theirs.f_number, ours.f_number), ("shutter_s", theirs.shutter_s, ours.shutter_s), ("iso", theirs.iso, ours.iso),
    )  # fmt: skip
    for ring, x, y in rings:
        if x != y:
            yield f"{written(ring, y)} instead of {written(ring, x)}"


def _finish(a: State, b: State) -> Iterator[str]:
    was, now = a.project.look_for(a.of_view, a.at), b.project.look_for(b.of_view, b.at)
    if was.key != now.key:
        yield f"look {now.name} instead of {was.name}"
    lists: list[dict[tuple[str, int], Treatment]] = [_told_apart(look.treatments) for look in (was, now)]
    for key in dict.fromkeys([*lists[0], *lists[1]]):
        before, after = lists[0].get(key), lists[1].get(key)
        off_a, off_b = before is None or not before.on, after is None or not after.on
        if off_a and off_b:
            continue
        if before is None or off_a or after is None or off_b:
            kept = after if before is None or off_a else before
            assert kept is not None
            yield f"{'with' if off_a else 'without'} {kept.TITLE.lower()}"
        elif before != after:
            yield from _treatment(before, after)


def _told_apart(treatments: Sequence[Treatment]) -> dict[tuple[str, int], Treatment]:
    seen: dict[tuple[str, int], Treatment] = {}
    for t in treatments:
        n = sum(1 for kind, _ in seen if kind == t.TITLE)
        seen[t.TITLE, n] = t
    return seen


def _treatment(was: Treatment, now: Treatment) -> Iterator[str]:
    told = False
    for field in form_of(type(now)):
        x, y = getattr(was, field["field"]), getattr(now, field["field"])
        if x == y:
            continue
        told = True
        if field["unit"] == "K" and now.TITLE == "White balance":
            # A lens set for bluer light shows the picture warmer.
            yield f"look {'warmer' if y > x else 'cooler'} by {abs(y - x):.0f} K"
        elif field["field"] == "stops":
            yield f"{now.TITLE.lower()} {y - x:+.1f} stops".replace("-", "−")
        else:
            unit = f" {field['unit']}" if field["unit"] else ""
            yield f"{now.TITLE.lower()}: {field['label'].lower()} {y:g}{unit} instead of {x:g}{unit}"
    if was.strength != now.strength:
        told = True
        yield f"{now.TITLE.lower()} at {now.strength:.0%} instead of {was.strength:.0%}"
    if was.limit != now.limit:
        told = True
        yield f"{now.TITLE.lower()} limited otherwise"
    if not told:
        yield f"{now.TITLE.lower()} changed"


def _named(names: list[str], one: str, many: str, joined: bool = False) -> Iterator[str]:
    """Names in a sentence each, or in one, or only how many there are."""
    if len(names) > MOST_NAMES:
        yield many.format(len(names))
    elif joined and names:
        yield (
            one.format(" and ".join(names) if len(names) < 3 else f"{names[0]}, {names[1]} and {names[2]}") + " changed"
        )
    else:
        yield from (one.format(name) for name in names)
