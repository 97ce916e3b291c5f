/** What pressing and dragging in the stage view does to fixtures and objects. */
import { Vector3 } from "three";

import type { Placement, Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { placeFixture } from "../fixtures/place";
import { useHand } from "../things/hand";
import { turned, withGroup } from "../things/groups";
import { movedTo, placeThing, round } from "../things/placing";
import type { Snap } from "../things/useSnapping";
import type { Handle } from "./handles";
import type { Met, Model, Point, Pointed } from "./model";

export interface Room {
  slug: string;
  project: Project;
  hands: Hands;
  selected: string | null;
  select: (key: string | null) => void;
  kind: string | null;
  /** Objects are placed here, in place of fixtures. */
  furnishing: boolean;
  /** Where an object that is carried comes to stand. */
  snap: Snap;
}

/** A drag that has begun; `move` says it anew until it is done. */
export interface Drag {
  move: (e: Pointed, done: boolean) => void;
}

/** What a press takes hold of; null for the view itself. */
export function grabbed(e: Pointed, at: Model, room: () => Room): Drag | null {
  if (room().furnishing) return grabbedThing(e, at, room);
  const key = at.fixtureAt(e);
  return key === null ? null : { move: (to, done) => carry(to, at, room(), key, done) };
}

function grabbedThing(e: Pointed, at: Model, room: () => Room): Drag | null {
  const { armed, chosen, put } = useHand.getState();
  if (armed) return null;
  const things = () => room().project.placements ?? [];
  const find = (key: string | undefined) => things().find((p) => p.key === key && p.made);
  const handle = at.handleAt(e);
  const met = handle ? null : at.meet(e);
  const thing = handle ? find(chosen[0]) : things().find((p) => p.made && met?.object === p.name);
  if (!thing) return null;
  if (!chosen.includes(thing.key)) put({ chosen: withGroup(things(), thing.key), tab: "objects" });
  if (thing.locked) return { move: () => undefined };
  if (handle) return { move: (to, done) => byHandle(to, at, room(), find(thing.key), handle, done) };
  const start = at.onLevel(e, met!.point.z);
  const from = thing.position as Point;
  return {
    move: (to, done) => {
      const now = at.onLevel(to, met!.point.z);
      const current = find(thing.key);
      if (!now || !start || !current) return;
      const by = now.sub(start);
      const list = [
        current,
        ...useHand
          .getState()
          .chosen.filter((k) => k !== thing.key)
          .map(find),
      ].filter((p) => p !== undefined);
      const keys = list.map((p) => p.key);
      const stood = room().snap(current, [from[0] + by.x, from[1] + by.y], to?.altKey ?? false, keys);
      const changes = movedTo(list, [...stood, current.position![2]]);
      if (changes.length) room().hands.changes(`Move ${thing.name}`.slice(0, 120), changes, done);
    },
  };
}

function byHandle(
  e: Pointed,
  at: Model,
  room: Room,
  thing: Placement | undefined,
  handle: Handle,
  done: boolean,
) {
  if (!thing) return;
  const [x, y, z] = thing.position as Point;
  if (handle === "turn") {
    const to = at.onLevel(e, z);
    if (!to) return;
    const angle = Math.round(((Math.atan2(to.y - y, to.x - x) * 180) / Math.PI + 90) / 5) * 5;
    const turn = ((((angle + 180) % 360) + 360) % 360) - 180;
    const { chosen } = useHand.getState();
    const others = (room.project.placements ?? []).filter((p) => chosen.includes(p.key) && p !== thing);
    const list = thing.group ? [thing, ...others] : [thing];
    room.hands.changes(`Turn ${thing.name}`.slice(0, 120), turned(list, turn - (thing.turn_deg ?? 0)), done);
    return;
  }
  const height = at.heightOver(e, [x, y, z]);
  if (height === null) return;
  const knob = at.knobHeight();
  const to: Point = [x, y, round(height - knob)];
  room.hands.changes(`Raise ${thing.name}`.slice(0, 120), movedTo([thing], to), done);
}

/** Carry a fixture, and its aim, to the surface under the pointer. */
function carry(e: Pointed, at: Model, room: Room, key: string, done: boolean) {
  const fixture = (room.project.fixtures ?? []).find((f) => f.key === key);
  const met = at.meet(e);
  if (!fixture || !met) return;
  const to = met.point.clone().addScaledVector(met.normal, 0.03).toArray();
  const by = to.map((v, k) => v - fixture.position[k]);
  const move = (p: readonly number[]) => p.map((v, k) => round(v + by[k])) as Point;
  room.select(key);
  room.hands.fixtures(
    "Move fixture",
    [{ ...fixture, position: move(fixture.position), aim: move(fixture.aim) }],
    done,
  );
}

/** Select the fixture under the pointer, aim at the surface under it, or place what is in hand there. */
export function act(e: Pointed, at: Model, room: Room, aims: boolean) {
  if (room.furnishing) {
    const met = at.meet(e);
    if (met) furnish(room.slug, met);
    return;
  }
  const key = aims ? null : at.fixtureAt(e);
  if (key !== null) {
    room.select(key);
    return;
  }
  const met = at.meet(e);
  if (!met) return;
  const aim = met.point.toArray().map(round) as Point;
  if (aims) {
    const fixture = (room.project.fixtures ?? []).find((f) => f.key === room.selected);
    if (fixture) room.hands.fixtures("Aim fixture", [{ ...fixture, aim }], true);
    return;
  }
  hang(room, met);
}

/** Place the object in hand on a surface. */
function furnish(slug: string, { point, normal }: Met) {
  const { armed, put } = useHand.getState();
  if (!armed) return;
  const position = point.toArray().map(round) as Point;
  void placeThing(slug, { ...armed, position, normal: normal.toArray() }).then(
    (key) => key && put({ chosen: [key], armed: null }),
  );
}

/** Hang a fixture of the chosen kind on a surface. */
function hang(room: Room, { point, normal }: Met) {
  const chosen = (room.project.kinds ?? []).find((k) => k.key === room.kind);
  if (!chosen) return;
  const spot = point.clone().addScaledVector(normal, 0.03);
  const away = Math.abs(normal.z) > 0.5 && normal.z > 0 ? new Vector3(0, 0, 1) : normal;
  const aim = normal.z < -0.5 ? new Vector3(spot.x, spot.y, 0) : spot.clone().addScaledVector(away, 2);
  void placeFixture(room.slug, {
    kind: chosen.key,
    at: [round(spot.x), round(spot.y)],
    height_m: round(spot.z),
    aim: aim.toArray().map(round) as Point,
  }).then((key) => key && room.select(key));
}
