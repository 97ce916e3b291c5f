import { useState } from "react";

import { api, type AreaReading, type ArrangeWanted, type Fixture } from "../api/client";
import { useStore } from "../state/store";
import type { ArrangeFigures } from "./PlanTools";

type Spot = [number, number];
/** So many points at most are measured in an area, and no closer than this. */
const MOST_POINTS = 300;
const CLOSEST_M = 0.1;

interface Place {
  slug: string;
  occasion: string;
  kind: string | null;
  fixtures: Fixture[];
  figures: ArrangeFigures;
  choose: (keys: string[]) => void;
}

/** What the plan's tools ask of the server: many fixtures at once, and the light on an area. */
export function usePlacing({ slug, occasion, kind, fixtures, figures, choose }: Place) {
  const [area, setArea] = useState<AreaReading | null>(null);
  const adopt = useStore((s) => s.adopt);
  const notify = useStore((s) => s.notify);
  const told = async (work: () => Promise<void>) => {
    try {
      await work();
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  const arrange = (wanted: Partial<ArrangeWanted> & Pick<ArrangeWanted, "how">) =>
    told(async () => {
      const plain = {
        points: [],
        fixtures: [],
        objects: "",
        axis: "x" as const,
        half_ends: figures.half,
        kind,
      };
      const state = await api.arrange(slug, { ...plain, ...wanted });
      const before = new Set(fixtures.map((f) => f.key));
      adopt(state);
      choose((state.description.fixtures ?? []).map((f) => f.key).filter((k) => !before.has(k)));
    });
  const counts = () =>
    figures.by === "spacing" ? { spacing_m: figures.spacing } : { count: figures.count, rows: figures.rows };
  const measure = (a: Spot, b: Spot) =>
    told(async () => {
      const [x0, x1] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])];
      const [y0, y1] = [Math.min(a[1], b[1]), Math.max(a[1], b[1])];
      setArea(
        await api.area(slug, {
          occasion,
          corner: [x0, y0, figures.height],
          u: [x1 - x0, 0, 0],
          v: [0, y1 - y0, 0],
          normal: [0, 0, 1],
          spacing_m: Math.max(Math.sqrt(((x1 - x0) * (y1 - y0)) / MOST_POINTS), CLOSEST_M),
          direct_only: false,
        }),
      );
    });
  return { area, putAway: () => setArea(null), arrange, counts, measure };
}
