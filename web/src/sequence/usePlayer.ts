import { useCallback, useEffect, useRef, useState } from "react";

import { api, type Run } from "../api/client";

/** Pictures asked for at once, and kept in all. */
const AT_ONCE = 6;
const MOST_KEPT = 400;

/** Plays the frames of a run that are made: loaded beforehand, shown at its rate, over again. */
export function usePlayer(run: Run | null, show: (place: number) => void) {
  const [playing, setPlaying] = useState(false);
  const [loaded, setLoaded] = useState(0);
  const kept = useRef(new Map<string, HTMLImageElement>());
  const latest = useRef(show);
  latest.current = show;
  // What is played is what was made when it was begun; another run, or another take of it, begins anew.
  const key = run ? `${run.id} ${run.takes}` : "";

  const load = useCallback(async (of: Run, gone: () => boolean) => {
    let next = 0;
    const worker = async () => {
      while (next < of.made.length && !gone()) {
        const url = api.frame(of, of.made[next++], "screen.jpg");
        if (!kept.current.has(url)) {
          const image = new Image();
          image.src = url;
          await image.decode().catch(() => undefined);
          kept.current.set(url, image);
          if (kept.current.size > MOST_KEPT) kept.current.delete(kept.current.keys().next().value!);
        }
        setLoaded((n) => n + 1);
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, worker));
  }, []);

  useEffect(() => {
    if (!playing || !run || run.made.length === 0) return;
    let over = false;
    let frame = 0;
    setLoaded(0);
    const begin = async () => {
      await load(run, () => over);
      const began = performance.now();
      const tick = () => {
        if (over) return;
        const place = Math.floor(((performance.now() - began) / 1000) * run.rate) % run.made.length;
        latest.current(place);
        frame = requestAnimationFrame(tick);
      };
      tick();
    };
    void begin();
    return () => {
      over = true;
      cancelAnimationFrame(frame);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [playing, key, load]);
  return { playing, setPlaying, loaded };
}
