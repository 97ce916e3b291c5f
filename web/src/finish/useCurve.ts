import { useRef } from "react";

import { api, type CurveHandle, type Treatment } from "../api/client";
import { useServer } from "../state/server";
import { type Done, useStore } from "../state/store";

type Bend = { field: string; stops: number; value: number };

/** The curve of a treatment, and a way to bend it: the server knows its equation. While a bend is on its way only the newest waits. */
export function useCurve(treatment: Treatment, change: (patch: Record<string, number>, done: Done) => void) {
  const shown = useServer(["curve", treatment], () => api.curve(treatment), { told: true });
  const latest = useRef({ treatment, change });
  latest.current = { treatment, change };
  const asked = useRef(false);
  /** Bends that were asked for before the hand let go of its drag are of no interest any more. */
  const grasp = useRef(0);
  const waiting = useRef<[Bend, Done] | null>(null);
  const next = async (bend: Bend, done: Done) => {
    asked.current = true;
    const mine = grasp.current;
    try {
      const made = await api.curve(latest.current.treatment, bend);
      const value = (made.treatment as unknown as Record<string, number>)[bend.field];
      if (mine === grasp.current) latest.current.change({ [bend.field]: value }, done);
    } catch (error) {
      useStore.getState().notify((error as Error).message, "error");
    }
    asked.current = false;
    const newer = waiting.current;
    waiting.current = null;
    if (newer) void next(...newer);
  };
  const bend = (field: string, stops: number, value: number, done: Done) => {
    if (asked.current) waiting.current = [{ field, stops, value }, done];
    else void next({ field, stops, value }, done);
  };
  const letGo = () => {
    grasp.current += 1;
    waiting.current = null;
  };
  const handles: CurveHandle[] = shown?.handles ?? [];
  return { points: (shown?.points ?? []) as [number, number][], handles, bend, letGo };
}
