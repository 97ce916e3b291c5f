import type { CourseMoment, Project, Sequence, Station, View } from "../api/client";
import { freeKey } from "../ui/format";

export const round = (v: number) => Math.round(v * 1000) / 1000;
export type Point = Station["position"];
/** A station, and what of it is taken hold of. */
export type Grip = readonly [station: number, what: "position" | "target"];
/** Height of the plan over its width; room about the path, and the least that is shown, in m. */
const SHAPE = 0.8;
const ROOM_M = 3;
const LEAST_M = 9;

/** A station where a view stands. */
export const stationOf = (view: Pick<View, "position" | "target" | "focal_mm">): Station => ({
  position: view.position.map(round) as Point,
  target: view.target.map(round) as Point,
  focal_mm: Number((view.focal_mm ?? 24).toPrecision(4)),
  rest_s: 0,
});

/** A station so many metres on in the direction in which another looks. */
export function ahead(station: Station, metres: number): Station {
  const d = station.target.map((v, k) => v - station.position[k]);
  const flat = Math.hypot(d[0], d[1]) || 1;
  const by = [(d[0] / flat) * metres, (d[1] / flat) * metres, 0];
  return {
    ...station,
    position: station.position.map((v, k) => round(v + by[k])) as Point,
    target: station.target.map((v, k) => round(v + by[k])) as Point,
  };
}

/** A new sequence: the lens of a view goes forward a little. */
export function begun(project: Project, view: View, occasion: string): Sequence {
  const sequences = project.sequences ?? [];
  const first = stationOf(view);
  let name = view.name;
  for (let n = 2; sequences.some((s) => s.name === name); n++) name = `${view.name} ${n}`;
  return {
    key: freeKey(name, new Set(sequences.map((x) => x.key))),
    name,
    view: view.key,
    occasion,
    seconds: 6,
    rate: 24,
    stations: [first, ahead(first, 1.5)],
    ease: 0.25,
    hours: null,
    days: null,
    drift_m: [0, 0],
    follows: 0,
    cues: [],
    shutter_deg: 180,
    width: 1280,
    quality: "proof",
  };
}

/** A sequence with a station more: at a moment between others, or on from the last. */
export function withStation(sequence: Sequence, moment: CourseMoment, arrives: number[]): Sequence {
  const stations = sequence.stations ?? [];
  const after = arrives.filter((t) => t <= moment.second + 1e-6).length;
  const at = stationOf(moment);
  if (stations.length === 0) return { ...sequence, stations: [at, ahead(at, 1.5)] };
  if (after >= stations.length)
    return { ...sequence, stations: [...stations, ahead(stations[stations.length - 1], 1.5)] };
  return { ...sequence, stations: [...stations.slice(0, after), at, ...stations.slice(after)] };
}

/** The moment nearest to a second. */
export const momentAt = (moments: CourseMoment[], second: number): CourseMoment | undefined =>
  moments.reduce<CourseMoment | undefined>(
    (best, m) =>
      best === undefined || Math.abs(m.second - second) < Math.abs(best.second - second) ? m : best,
    undefined,
  );

/** Stations with one moved, or turned; who is moved looks on in the same direction. */
export function moved(stations: Station[], [k, what]: Grip, [x, y]: [number, number]): Station[] {
  return stations.map((s, n) => {
    if (n !== k) return s;
    if (what === "target") return { ...s, target: [x, y, s.target[2]] };
    const [dx, dy] = [x - s.position[0], y - s.position[1]];
    return {
      ...s,
      position: [x, y, s.position[2]],
      target: [round(s.target[0] + dx), round(s.target[1] + dy), s.target[2]],
    };
  });
}

/** What of the plan is shown: the path, room about it, and never less than a room. */
export function boxOf(points: number[][]): [number, number, number, number] {
  const xs = points.map((p) => p[0]);
  const ys = points.map((p) => -p[1]);
  const wide = Math.max(
    Math.max(...xs) - Math.min(...xs) + 2 * ROOM_M,
    (Math.max(...ys) - Math.min(...ys) + 2 * ROOM_M) / SHAPE,
    LEAST_M,
  );
  const [cx, cy] = [(Math.max(...xs) + Math.min(...xs)) / 2, (Math.max(...ys) + Math.min(...ys)) / 2];
  return [cx - wide / 2, cy - (wide * SHAPE) / 2, wide, wide * SHAPE];
}
