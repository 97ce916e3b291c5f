import type { Lens } from "../api/client";

/** The shutter that brings a lens to an exposure value at ISO 100, its f-number and speed left alone; speed helps where the
 * shutter would be longer than half a second. */
export function lensForEv(lens: Lens | undefined, ev100: number): Partial<Lens> {
  const f = lens?.f_number ?? 8;
  let iso = lens?.iso ?? 100;
  let shutter = (f * f * 100) / (iso * 2 ** ev100);
  while (shutter > 0.5 && iso < 6400) {
    iso *= 2;
    shutter /= 2;
  }
  return { iso, shutter_s: Math.min(Math.max(shutter, 1 / 64000), 3600) };
}
