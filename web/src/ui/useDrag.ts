import { useCallback, useEffect, useMemo, useRef } from "react";

interface Acts {
  /** A press; returns false where nothing is to be dragged. */
  start?: (e: React.PointerEvent) => boolean | void;
  move: (e: React.PointerEvent) => void;
  /** Let go after a press that began here. */
  end: (e: React.PointerEvent) => void;
  /** Put away by Escape, or taken by the system: what stood before comes back. */
  cancel: () => void;
}

/** A page that takes so long from a move to the frame after it is drawn anew no more often than this: its machine also makes the
 * pictures that answer the drag. */
const SLOW_MS = 45;
const SPARING_MS = 50;

/** Handlers of a drag that begins with a press on this element: letting go of one that began elsewhere does nothing. */
export function useDrag(acts: Acts) {
  const latest = useRef(acts);
  latest.current = acts;
  const held = useRef<number | null>(null);
  const pace = useRef({ answered: 0, slow: false, left: null as React.PointerEvent | null, timer: 0 });
  const answer = useCallback((e: React.PointerEvent) => {
    const now = performance.now();
    Object.assign(pace.current, { answered: now, left: null });
    latest.current.move(e);
    requestAnimationFrame(() =>
      requestAnimationFrame(() => (pace.current.slow = performance.now() - now > SLOW_MS)),
    );
  }, []);
  /** Let go of what was not answered yet: the end of a drag says where it ended. */
  const forget = useCallback(() => {
    window.clearTimeout(pace.current.timer);
    pace.current.left = null;
  }, []);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== "Escape" || held.current === null) return;
      e.preventDefault();
      e.stopImmediatePropagation();
      held.current = null;
      forget();
      latest.current.cancel();
    };
    window.addEventListener("keydown", onKey, true);
    return () => {
      window.removeEventListener("keydown", onKey, true);
      forget();
    };
  }, [forget]);
  return useMemo(
    () => ({
      onPointerDown: (e: React.PointerEvent) => {
        if (e.button !== 0 || held.current !== null) return;
        if (latest.current.start?.(e) === false) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        held.current = e.pointerId;
      },
      onPointerMove: (e: React.PointerEvent) => {
        if (held.current !== e.pointerId || !(e.buttons & 1)) return;
        const wait = pace.current.slow ? pace.current.answered + SPARING_MS - performance.now() : 0;
        if (wait <= 0) {
          forget();
          answer(e);
          return;
        }
        // The newest move is answered when its time has come, should no other follow.
        if (pace.current.left === null)
          pace.current.timer = window.setTimeout(() => pace.current.left && answer(pace.current.left), wait);
        pace.current.left = e;
      },
      onPointerUp: (e: React.PointerEvent) => {
        if (held.current !== e.pointerId) return;
        held.current = null;
        forget();
        latest.current.end(e);
      },
      onPointerCancel: (e: React.PointerEvent) => {
        if (held.current !== e.pointerId) return;
        held.current = null;
        forget();
        latest.current.cancel();
      },
    }),
    [answer, forget],
  );
}
