import type { Run } from "../api/client";

/** When a frame of a sequence stands, in s. */
export const secondOf = (seconds: number, frames: number, number: number) =>
  (seconds * number) / Math.max(frames - 1, 1);

/** The made frame next to a moment, as its place among the made ones; -1 where none is made. */
export function frameAt(run: Run, share: number): number {
  const last = run.numbers[run.numbers.length - 1] || 1;
  let best = -1;
  run.made.forEach((n, k) => {
    if (best < 0 || Math.abs(n / last - share) < Math.abs(run.made[best] / last - share)) best = k;
  });
  return best;
}
