import { useMemo } from "react";

import { api, type Placement, type Project } from "../api/client";
import { useModels, useServer } from "../state/server";
import { footprint, footprintsOf, snapped } from "./snapping";
import { useThings } from "./useThings";

/** Walls are those that are cut at this height. */
export const CUT_M = 1.2;

export type Snap = (
  thing: Placement,
  to: [number, number],
  fine: boolean,
  along?: string[],
) => [number, number];

const cm = (v: number) => Math.round(v * 100) / 100;

/** Where a thing that is carried comes to stand; `along` are the keys of those carried with it. Finely: where the hand is. */
export function useSnapping(slug: string, project: Project | null): Snap {
  const models = useModels();
  const lines = useThings(slug);
  const plan = useServer(["plan", slug, models], () => api.plan(slug, CUT_M), { ready: project !== null });
  return useMemo(
    () =>
      (thing, to, fine, along = []) => {
        const line = lines.find((l) => l.key === thing.key);
        if (fine || !line) return [cm(to[0]), cm(to[1])];
        const others = footprintsOf(project?.placements ?? [], lines, [thing.key, ...along]);
        return snapped(to, footprint(thing, line), plan?.segments ?? [], others);
      },
    [lines, plan, project],
  );
}
