import { useEffect, useMemo, useRef } from "react";

interface Acts {
  /** A press; returns false where nothing is to be dragged. */
  start?: (e: React.PointerEvent) => boolean | void;
  move: (e: React.PointerEvent) => void;
  /** Let go after a press that began here. */
  end: (e: React.PointerEvent) => void;
  /** Put away by Escape, or taken by the system: what stood before comes back. */
  cancel: () => void;
}

/** Handlers of a drag that begins with a press on this element: letting go of one that began elsewhere does nothing. */
export function useDrag(acts: Acts) {
  const latest = useRef(acts);
  latest.current = acts;
  const held = useRef<number | null>(null);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== "Escape" || held.current === null) return;
      e.preventDefault();
      e.stopImmediatePropagation();
      held.current = null;
      latest.current.cancel();
    };
    window.addEventListener("keydown", onKey, true);
    return () => window.removeEventListener("keydown", onKey, true);
  }, []);
  return useMemo(
    () => ({
      onPointerDown: (e: React.PointerEvent) => {
        if (e.button !== 0 || held.current !== null) return;
        if (latest.current.start?.(e) === false) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        held.current = e.pointerId;
      },
      onPointerMove: (e: React.PointerEvent) => {
        if (held.current === e.pointerId && e.buttons & 1) latest.current.move(e);
      },
      onPointerUp: (e: React.PointerEvent) => {
        if (held.current !== e.pointerId) return;
        held.current = null;
        latest.current.end(e);
      },
      onPointerCancel: (e: React.PointerEvent) => {
        if (held.current !== e.pointerId) return;
        held.current = null;
        latest.current.cancel();
      },
    }),
    [],
  );
}
