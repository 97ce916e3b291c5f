/** Outlines of the units of a layout, as they are drawn; the tracer's own are in core/trace/textures/courses.py. */
import type { Courses } from "../api/client";

export type Corner = [number, number];

export interface Unit {
  /** Corners in metres along and up the layout. */
  corners: Corner[];
  /** Tells units apart, 0 to 1. */
  shade: number;
}

const box = (a: number, b: number, wide: number, high: number): Corner[] => [
  [a, b],
  [a + wide, b],
  [a + wide, b + high],
  [a, b + high],
];
const shadeOf = (i: number, j: number) => {
  const mixed = Math.imul(i * 374761393 + j * 668265263, 2246822519);
  return ((mixed ^ (mixed >>> 13)) >>> 0) / 2 ** 32;
};
const rows = (low: number, high: number, rise: number) => {
  const first = Math.floor(low / rise);
  return Array.from({ length: Math.ceil(high / rise) - first }, (_, k) => first + k);
};

/** Units that touch a rectangle of the layout, at most `most` of them. */
export function unitsIn(courses: Courses, low: Corner, high: Corner, most = 1500): Unit[] {
  const {
    bond = "running",
    length_m: length = 0.215,
    height_m: height = 0.065,
    joint_m: joint = 0.01,
  } = courses;
  const [pitch, rise] = [length + joint, height + joint];
  const found: Unit[] = [];
  const put = (corners: Corner[], i: number, j: number) => found.push({ corners, shade: shadeOf(i, j) });
  const half = joint / 2;
  if (((high[0] - low[0]) / Math.min(pitch, rise * 2) + 1) * ((high[1] - low[1]) / rise + 1) > 4 * most)
    return [];
  if (bond === "hexagon") {
    const wide = Math.sqrt(3) * rise;
    const reach = height / Math.sqrt(3);
    for (const j of rows(low[1] - rise, high[1] + rise, rise / 2))
      for (const i of rows(low[0] - wide, high[0] + wide, wide)) {
        const [x, y] = [(i + (j % 2 === 0 ? 0 : 0.5)) * wide, (j * rise) / 2];
        put(
          Array.from({ length: 6 }, (_, k): Corner => {
            const turn = (k * Math.PI) / 3;
            return [x + reach * Math.cos(turn), y + reach * Math.sin(turn)];
          }),
          i,
          j,
        );
      }
    return found;
  }
  if (bond === "herringbone") {
    const n = Math.max(2, Math.round(pitch / rise));
    const [first, last] = [rows(low[0] - n * rise, high[0], rise), rows(low[1] - n * rise, high[1], rise)];
    for (const j of last)
      for (const i of first) {
        const k = (((i - j) % (2 * n)) + 2 * n) % (2 * n);
        if (k === 0) put(box(i * rise + half, j * rise + half, n * rise - joint, height), i, j);
        else if (k === 2 * n - 1) put(box(i * rise + half, j * rise + half, height, n * rise - joint), i, j);
      }
    return found;
  }
  for (const j of rows(low[1], high[1], rise)) {
    const odd = Math.abs(j % 2);
    const at = j * rise + half;
    const shift = {
      running: (odd * pitch) / 2,
      third: (pitch / 3) * (((j % 3) + 3) % 3),
      english: (odd * pitch) / 4,
      flemish: odd * 0.75 * pitch,
      random: pitch * shadeOf(j, 17),
      stack: 0,
    }[bond as string]!;
    if (bond === "flemish") {
      for (const i of rows(low[0] - 1.5 * pitch - shift, high[0] - shift, 1.5 * pitch)) {
        const from = i * 1.5 * pitch + shift;
        put(box(from + half, at, length, height), 2 * i, j);
        put(box(from + pitch + half, at, pitch / 2 - joint, height), 2 * i + 1, j);
      }
      continue;
    }
    const own = bond === "english" && odd ? pitch / 2 : pitch;
    for (const i of rows(low[0] - own - shift, high[0] - shift, own))
      put(box(i * own + shift + half, at, own - joint, height), i, j);
  }
  return found;
}
