/** Cut-outs as edits: placed, moved, copied, laid out as a crowd. */
import type { Change, CutOut, CutOutOffer, Project, View } from "../api/client";
import { freeKey } from "../ui/format";

export type Point = [number, number, number];
/** A full circle in steps of a turn that make people of a crowd differ: the golden angle. */
const DIFFERENT = 137.508;

export const round = (v: number) => Math.round(v * 1000) / 1000;
/** An angle from -180 to 180 degrees. */
export const turnOf = (deg: number) => Math.round(((((deg + 180) % 360) + 360) % 360) - 180);
/** The turn of what faces from one place towards another: 0 looks along -Y. */
export const facing = (from: Point, to: readonly number[]) =>
  turnOf((Math.atan2(to[1] - from[1], to[0] - from[0]) * 180) / Math.PI + 90);

/** Those of a view that are there at an occasion. */
export const cutOutsAt = (project: Project, view: string, occasion: string): CutOut[] =>
  (project.cutouts ?? []).filter(
    (c) => c.view === view && !c.hidden && !(c.hidden_at ?? []).includes(occasion),
  );

/** A cut-out of the catalogue at a place, half turned to the lens. */
export function placed(
  project: Project,
  view: View,
  offer: CutOutOffer,
  place: Point,
  turn?: number,
): CutOut {
  const taken = new Set((project.cutouts ?? []).map((c) => c.key));
  const names = new Set((project.cutouts ?? []).map((c) => c.name));
  let [name, number] = [offer.name, 2];
  while (names.has(name)) name = `${offer.name} ${number++}`;
  return {
    key: freeKey(offer.key, taken),
    name: name.slice(0, 80),
    view: view.key,
    place: place.map(round) as Point,
    height_m: offer.height_m,
    turn_deg: turn ?? turnOf(facing(place, view.position) + 35),
    ...(offer.made ? { made: offer.made } : { picture: offer.picture }),
  } as CutOut;
}

/** Set one field of some cut-outs. */
export const setField = (cutouts: CutOut[], field: keyof CutOut, value: (c: CutOut) => unknown): Change[] =>
  cutouts.map((c) => ({ part: "cutout", key: c.key, at: [field], value: value(c) }));

/** Move some so that the first comes to stand at a place; those that are locked stay. */
export function movedTo(cutouts: CutOut[], to: Point): Change[] {
  const free = cutouts.filter((c) => !c.locked);
  const from = free[0]?.place;
  if (!from) return [];
  return setField(free, "place", (c) => c.place.map((v, k) => round(v + to[k] - from[k])));
}

/** Copies a little aside, and their keys. */
export function copied(
  project: Project,
  cutouts: CutOut[],
  across: readonly number[],
): { changes: Change[]; keys: string[] } {
  const taken = new Set((project.cutouts ?? []).map((c) => c.key));
  const names = new Set((project.cutouts ?? []).map((c) => c.name));
  const keys: string[] = [];
  const changes = cutouts.map((c): Change => {
    const key = freeKey(c.key.replace(/-\d+$/, ""), taken);
    taken.add(key);
    keys.push(key);
    const stem = c.name.replace(/ \d+$/, "");
    let number = 2;
    while (names.has(`${stem} ${number}`)) number += 1;
    names.add(`${stem} ${number}`);
    const place = c.place.map((v, k) => round(v + 0.8 * (across[k] ?? 0)));
    return { part: "cutout", key, value: { ...c, key, name: `${stem} ${number}`, place, locked: false } };
  });
  return { changes, keys };
}

/** Places along a path, so far apart, each with the direction of its part in degrees as a turn; alternately to its left and right. */
export function along(path: Point[], apart: number): { place: Point; turn: number }[] {
  const made: { place: Point; turn: number }[] = [];
  let [left, side] = [0, 0];
  for (let k = 0; k + 1 < path.length; k += 1) {
    const [a, b] = [path[k], path[k + 1]];
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    if (length < 1e-6) continue;
    for (let at = left; at <= length + 1e-9; at += apart) {
      const off = 0.22 * apart * [0, 1, -1, 0.5, -0.6][side % 5];
      side += 1;
      const t = at / length;
      const place: Point = [
        round(a[0] + t * (b[0] - a[0]) - (off * (b[1] - a[1])) / length),
        round(a[1] + t * (b[1] - a[1]) + (off * (b[0] - a[0])) / length),
        round(a[2] + t * (b[2] - a[2])),
      ];
      made.push({ place, turn: facing(a, b) });
    }
    left = apart - ((length - left) % apart);
  }
  return made;
}

/** A crowd along a path: people of the catalogue by turns, of whom some come and others go. */
export function crowd(
  project: Project,
  view: View,
  offers: CutOutOffer[],
  path: Point[],
  apart: number,
  both: boolean,
): Change[] {
  let now = project;
  const changes: Change[] = [];
  const group = freeKey("crowd", new Set((project.cutouts ?? []).flatMap((c) => (c.group ? [c.group] : []))));
  along(path, apart).forEach(({ place, turn }, k) => {
    const offer = offers[Math.floor(((k * DIFFERENT) / 360) * offers.length) % offers.length];
    const back = both && k % 2 === 1 ? 180 : 0;
    const made = {
      ...placed(now, view, offer, place, turnOf(turn + back + ((k * DIFFERENT) % 40) - 20)),
      group,
    };
    now = { ...now, cutouts: [...(now.cutouts ?? []), made] };
    changes.push({ part: "cutout", key: made.key, value: made });
  });
  return changes;
}
