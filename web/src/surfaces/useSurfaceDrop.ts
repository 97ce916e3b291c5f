import { useRef, useState } from "react";

import { api, type Change, type Project, Refusal, type Spot } from "../api/client";
import type { AtBench } from "../bench/useBench";
import { useStore } from "../state/store";
import { isApart, setApart } from "./apart";
import { useCatalogue } from "./useSurfaces";

/** The kind of data by which a surface of the catalogue is dragged. */
export const DRAGGED = "application/x-surface";

/** Something dragged over the picture that may be let go there. */
export interface Drop {
  kind: string;
  over: (x: number, y: number, alone: boolean) => void;
  let: (x: number, y: number, key: string, alone: boolean) => void;
  leave: () => void;
  /** What letting go would do. */
  told: string | null;
}

interface Bench extends AtBench {
  open: (name: string) => void;
}

/** A surface of the catalogue dropped on the picture goes onto what is seen there; with Shift onto that object alone. */
export function useSurfaceDrop({ slug, view, occasion, project, hands, open }: Bench): Drop {
  const catalogue = useCatalogue();
  const notify = useStore((s) => s.notify);
  const [told, setTold] = useState<string | null>(null);
  const asking = useRef(false);
  const round = useRef(0);
  const pick = (x: number, y: number) => {
    const spot: Spot = { view, occasion, picture: [x, y] };
    return api.pick(slug, spot);
  };
  const leave = () => {
    round.current += 1;
    setTold(null);
  };
  return {
    kind: DRAGGED,
    told,
    leave,
    over: (x, y, alone) => {
      if (asking.current) return; // the next move asks again
      asking.current = true;
      const mine = ++round.current;
      pick(x, y)
        .then((met) => {
          if (mine !== round.current) return;
          if (!met) setTold("Nothing of the stage is there: it is the sky.");
          else if (alone && met.object) setTold(`On ${met.object} alone`);
          else setTold(`On ${met.material}, everywhere; with Shift on ${met.object || "this object"} alone`);
        })
        .catch((error: unknown) => {
          if (!(error instanceof Refusal)) throw error;
        })
        .finally(() => (asking.current = false));
    },
    let: (x, y, key, alone) => {
      leave();
      const entry = catalogue.find((c) => c.key === key);
      if (!entry || !project) return;
      pick(x, y).then(
        (met) => {
          if (!met) {
            notify("Nothing of the stage is there: it is the sky.");
            return;
          }
          const { name, changes } = dressed(project, met, alone);
          hands.changes(
            `${entry.name} on ${name}`.slice(0, 120),
            [...changes, { part: "stage", at: ["surfaces", name], value: entry.surface }],
            true,
          );
          open(name);
        },
        (error: Error) => notify(error.message, "error"),
      );
    },
  };
}

/** The name that what was met is dressed by, and what must be changed first for one object alone. */
export function dressed(
  project: Project,
  met: { material: string; object: string },
  alone: boolean,
): { name: string; changes: Change[] } {
  if (!alone || !met.object || isApart(project, met.material)) return { name: met.material, changes: [] };
  const made = setApart(project, met.object, met.material);
  return { name: made.name, changes: made.changes.filter((c) => c.at![0] === "apart") };
}
