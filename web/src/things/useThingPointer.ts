import { useEffect, useRef } from "react";

import { api, Refusal, type Spot } from "../api/client";
import type { AtBench } from "../bench/useBench";
import { useStore } from "../state/store";
import { withGroup } from "./groups";
import { useHand } from "./hand";
import { movedTo, placeThing, round } from "./placing";
import { useSnapping } from "./useSnapping";

type Point = [number, number, number];

interface Bench extends AtBench {
  /** What a press does where nothing is in hand. */
  otherwise: (met: { material: string; object: string }) => void;
}

/** Pointing at picture or plan in the Stage step: places what is in hand, chooses a thing, or carries the chosen one along. */
export function useThingPointer({ slug, view, occasion, project, hands, otherwise }: Bench) {
  const busy = useRef(false);
  const carried = useRef<Point | null>(null);
  /** Counts drags: an answer that comes after its drag has ended is nothing any more. */
  const drags = useRef(0);
  const dragging = useStore((s) => s.dragging);
  useEffect(() => {
    if (dragging) return;
    carried.current = null;
    drags.current += 1;
  }, [dragging]);
  const notify = useStore((s) => s.notify);
  const { armed, chosen, leaves, outline, tab, put } = useHand();
  const snap = useSnapping(slug, tab === "objects" && chosen.length > 0 ? project : null);
  const things = (project?.placements ?? []).filter((p) => chosen.includes(p.key));
  const inHand = chosen.map((key) => things.find((p) => p.key === key)).find((p) => p !== undefined);

  const point = async (place: Partial<Spot>) => {
    drags.current += 1;
    if (carried.current && inHand) {
      const to = carried.current;
      carried.current = null;
      hands.changes(
        `Move ${inHand.name}`.slice(0, 120),
        movedTo([inHand, ...things.filter((p) => p !== inHand)], to),
        true,
      );
      return;
    }
    if (outline && place.plan) {
      put({ outline: [...outline, [round(place.plan[0]), round(place.plan[1])]] });
      return;
    }
    try {
      const met = await api.pick(slug, { view, occasion, ...place });
      if (!met) {
        notify("Nothing of the stage is there: it is the sky.", "info");
        return;
      }
      if (leaves) {
        put({ leaves: { ...leaves, spot: { point: met.point, normal: met.normal, object: met.object } } });
      } else if (armed) {
        const position = met.point.map(round) as Point;
        const key = await placeThing(slug, { ...armed, position, normal: met.normal });
        if (key) put({ chosen: [key], armed: null });
      } else if (outline) put({ outline: [...outline, [round(met.point[0]), round(met.point[1])]] });
      else if (tab === "objects" && met.thing)
        put({ chosen: withGroup(project?.placements ?? [], met.thing), tab: "objects" });
      else if (tab === "objects") put({ chosen: [] });
      else otherwise(met);
    } catch (error) {
      if (error instanceof Refusal) notify(error.message, "error");
      else throw error;
    }
  };

  /** Carry the chosen thing to the surface under the pointer, as if it did not stand in the way itself. */
  const drag = async (x: number, y: number) => {
    if (!inHand || inHand.locked || inHand.repeat || busy.current) return;
    busy.current = true;
    const mine = drags.current;
    try {
      const met = await api.pick(slug, { view, occasion, picture: [x, y], without: inHand.key });
      if (!met || mine !== drags.current) return;
      const [px, py, pz] = met.point.map(round) as Point;
      // What lies level is stood on beside walls and other things; walls are hung on where one points.
      const level = met.normal[2] > 0.9;
      const keys = things.map((p) => p.key);
      carried.current = [...(level ? snap(inHand, [px, py], false, keys) : ([px, py] as const)), pz];
      hands.changes("Move", movedTo([inHand, ...things.filter((p) => p !== inHand)], carried.current), false);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error; // the next move asks again
    } finally {
      busy.current = false;
    }
  };
  /** Put away what is in hand, the last taken first; false where nothing is. */
  const putAway = (): boolean => {
    if (outline) put({ outline: null });
    else if (leaves) put({ leaves: null });
    else if (armed) put({ armed: null });
    else if (chosen.length > 0) put({ chosen: [] });
    else return false;
    return true;
  };
  return { point, putAway, drag: tab === "objects" && inHand && !armed && !leaves ? drag : undefined };
}
