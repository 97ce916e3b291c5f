import { useEffect, useMemo, useRef, useState } from "react";

import { api, type LuxGrid, type Occasion, type Project } from "../api/client";
import { useStore } from "../state/store";
import { contour } from "./contours";

export const WORKING_PLANE_M = 0.75;
const LEVELS = [50, 100, 200, 300, 500, 750];
const QUIET_MS = 120;
/** Where less falls, nobody works: it counts for no mean. */
const LEAST_LX = 5;

/** Direct light of the fixtures on the working plane, following what is dragged: the grid, its contours and its figures. */
export function useLux(slug: string, project: Project, occasion: Occasion) {
  const [grid, setGrid] = useState<LuxGrid | null>(null);
  const draft = useStore((s) => s.draft);
  const lit = JSON.stringify([project.fixtures, project.kinds, project.occasions, draft.map((c) => c.key)]);
  // One question at a time: while a fixture is dragged the next one asks for the newest draft.
  const asking = useRef<"no" | "once" | "again">("no");
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    const wait = window.setTimeout(() => {
      if (asking.current !== "no") {
        asking.current = "again";
        return;
      }
      asking.current = "once";
      api
        .luxOfDraft(slug, occasion.key, WORKING_PLANE_M, useStore.getState().draft)
        .then(setGrid, () => setGrid(null))
        .finally(() => {
          if (asking.current === "again") setTurn((t) => t + 1);
          asking.current = "no";
        });
    }, QUIET_MS);
    return () => window.clearTimeout(wait);
  }, [slug, occasion.key, lit, turn]);
  const contours = useMemo(() => (grid ? LEVELS.map((l) => [l, contour(grid, l)] as const) : []), [grid]);
  const room = useMemo(() => figuresOf(grid, project), [grid, project]);
  return { grid, contours, room };
}

/** Average and greatest where light falls. */
function figuresOf(grid: LuxGrid | null, project: Project) {
  if (!grid || (project.fixtures ?? []).length === 0) return null;
  const lit = grid.lux.filter((v) => v > LEAST_LX);
  if (lit.length < 4) return null;
  return { average: lit.reduce((a, b) => a + b, 0) / lit.length, greatest: Math.max(...lit) };
}
