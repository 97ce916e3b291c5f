/** How closely compared pictures are looked at, all alike: scale over the fitted size, and where their corner lies, in frames. */
export interface Looking {
  scale: number;
  x: number;
  y: number;
}

export const FIT: Looking = { scale: 1, x: 0, y: 0 };
const MOST = 32;

export const WAYS = [
  ["slider", "Slider"],
  ["side", "Side by side"],
  ["flicker", "By turns"],
  ["difference", "Difference"],
] as const;
export type Way = (typeof WAYS)[number][0];
export const DIFFERENCE_GAINS = [1, 4, 16];

/** Nothing beside the picture comes into the frame. */
function kept({ scale, x, y }: Looking): Looking {
  const inside = (v: number) => Math.min(0, Math.max(1 - scale, v));
  return { scale, x: inside(x), y: inside(y) };
}

export const panned = (was: Looking, dx: number, dy: number): Looking =>
  kept({ ...was, x: was.x + dx, y: was.y + dy });

/** Nearer or farther by a factor about a place of the frame, which stays where it is. */
export function zoomed(was: Looking, factor: number, [px, py]: [number, number]): Looking {
  const scale = Math.min(Math.max(was.scale * factor, 1), MOST);
  const by = scale / was.scale;
  return kept({ scale, x: px - (px - was.x) * by, y: py - (py - was.y) * by });
}

/** One pixel of the picture on one of the screen, about the middle of what is seen. */
export function atPixels(was: Looking, wide: number, frame: number, ratio: number): Looking {
  if (!(wide > 0 && frame > 0)) return was;
  return zoomed(was, wide / ratio / frame / was.scale, [0.5, 0.5]);
}
