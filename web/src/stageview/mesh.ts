/** The stage's light mesh as the server packs it, shaded once and for all: in software every light costs. */
import { BufferAttribute, BufferGeometry } from "three";

/** So many triangles, the largest, are drawn while one looks around: at first, and at the least and most this machine may need. */
export const [COARSE, LEAST, MOST] = [16_000, 2_500, 120_000];
/** A frame may take so long. */
const [SLOW_MS, QUICK_MS] = [60, 28];

/** How many triangles to draw after a frame that took so long. */
export function paced(triangles: number, frameMs: number): number {
  const by = frameMs > SLOW_MS ? Math.max(SLOW_MS / frameMs, 0.4) : frameMs < QUICK_MS ? 1.15 : 1;
  return Math.round(Math.min(Math.max(triangles * by, LEAST), MOST));
}

export interface StageMesh {
  opaque: BufferGeometry;
  panes: BufferGeometry;
  /** Where the corners are given about. */
  origin: [number, number, number];
  /** Name of the object of each triangle of `opaque`. */
  objectOf: (triangle: number) => string;
  /** Least and greatest corner, without what reaches far beyond the rest, as ground does. */
  low: [number, number, number];
  high: [number, number, number];
}

/** Light from the upper left before one, and some from everywhere; both sides of a face are lit alike. */
const LIGHT = [-0.36, -0.48, 0.8];

/** Read a packed mesh, see `WorkingMesh.packed` of the core. */
export function readMesh(data: ArrayBuffer): StageMesh {
  const origin = [...new Float64Array(data, 0, 3)] as [number, number, number];
  const [count, letters] = new Uint32Array(data, 24, 2);
  const corners = new Float32Array(data, 32, 9 * count);
  const colours = new Uint8Array(data, 32 + 36 * count, 4 * count);
  const objects = new Uint16Array(data.slice(32 + 40 * count, 32 + 42 * count));
  const names = JSON.parse(
    new TextDecoder().decode(new Uint8Array(data, 32 + 42 * count, letters)) || "[]",
  ) as string[];
  const of = (glass: boolean) => {
    const numbers: number[] = [];
    for (let t = 0; t < count; t++) if (colours[4 * t + 3] < 255 === glass) numbers.push(t);
    return numbers;
  };
  const solid = of(false);
  const [low, high] = extent(corners, solid);
  return {
    opaque: shaded(corners, colours, solid),
    panes: shaded(corners, colours, of(true)),
    origin,
    objectOf: (triangle) => names[objects[solid[triangle]]] ?? "",
    low: low.map((v, k) => v + origin[k]) as [number, number, number],
    high: high.map((v, k) => v + origin[k]) as [number, number, number],
  };
}

function shaded(corners: Float32Array, colours: Uint8Array, numbers: number[]): BufferGeometry {
  const place = new Float32Array(9 * numbers.length);
  const paint = new Uint8Array(9 * numbers.length);
  numbers.forEach((t, k) => {
    const c = corners.subarray(9 * t, 9 * t + 9);
    place.set(c, 9 * k);
    const [ax, ay, az] = [c[3] - c[0], c[4] - c[1], c[5] - c[2]];
    const [bx, by, bz] = [c[6] - c[0], c[7] - c[1], c[8] - c[2]];
    const n = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
    const long = Math.hypot(...n) || 1;
    const facing = Math.abs(n[0] * LIGHT[0] + n[1] * LIGHT[1] + n[2] * LIGHT[2]) / long;
    const light = 0.52 + 0.48 * facing;
    for (let corner = 0; corner < 3; corner++)
      for (let v = 0; v < 3; v++) paint[9 * k + 3 * corner + v] = light * colours[4 * t + v];
  });
  const made = new BufferGeometry();
  made.setAttribute("position", new BufferAttribute(place, 3));
  made.setAttribute("color", new BufferAttribute(paint, 3, true));
  return made;
}

/** Where most of the corners lie along each axis. */
function extent(corners: Float32Array, numbers: number[]): [number[], number[]] {
  const [low, high] = [
    [0, 0, 0],
    [1, 1, 1],
  ];
  if (numbers.length === 0) return [low, high];
  for (let axis = 0; axis < 3; axis++) {
    const values = Float32Array.from(numbers, (t) => corners[9 * t + axis]).sort();
    low[axis] = values[Math.floor(0.1 * (values.length - 1))];
    high[axis] = values[Math.ceil(0.9 * (values.length - 1))];
  }
  return [low, high];
}
