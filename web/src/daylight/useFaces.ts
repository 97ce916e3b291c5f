import { useCallback, useState } from "react";

import { api, type FaceWanted, Refusal } from "../api/client";
import { useStore } from "../state/store";

/** The faces that the hour finder asks about, and what the next pointing at the picture adds. */
export interface Faces {
  list: FaceWanted[];
  picking: "lit" | "shade" | null;
  pick: (as: "lit" | "shade" | null) => void;
  set: (list: FaceWanted[]) => void;
  /** How far each face reaches about the point picked, in metres: a patch of floor, or a whole wall. */
  reach: number;
  setReach: (metres: number) => void;
  point: (x: number, y: number) => Promise<void>;
}

const MOST = 12;

export function useFaces(slug: string, view: string, occasion: string): Faces {
  const [list, set] = useState<FaceWanted[]>([]);
  const [picking, pick] = useState<"lit" | "shade" | null>(null);
  const [reach, keepReach] = useState(1);
  const setReach = useCallback((metres: number) => {
    keepReach(metres);
    set((old) => old.map((f) => ({ ...f, reach_m: metres })));
  }, []);
  const notify = useStore((s) => s.notify);
  const point = useCallback(
    async (x: number, y: number) => {
      if (!picking) return;
      try {
        const met = await api.pick(slug, { view, occasion, picture: [x, y] });
        if (!met) {
          notify("Nothing of the stage is there: it is the sky.", "info");
          return;
        }
        set((old) =>
          old.length >= MOST
            ? old
            : [
                ...old,
                {
                  name: `${met.material}, ${met.object}`,
                  point: met.point,
                  normal: met.normal,
                  reach_m: reach,
                  lit: picking === "lit",
                },
              ],
        );
      } catch (error) {
        if (error instanceof Refusal) notify(error.message, "error");
      }
    },
    [slug, view, occasion, picking, reach, notify],
  );
  return { list, picking, pick, set, reach, setReach, point };
}
