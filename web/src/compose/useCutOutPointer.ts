import { useEffect, useRef } from "react";

import { api, Refusal } from "../api/client";
import type { PictureActs } from "../bench/pictureActs";
import type { AtBench } from "../bench/useBench";
import { useStore } from "../state/store";
import { cutOutsAt, movedTo, placed, type Point, round } from "./cutouts";
import { useCutOutHand } from "./hand";
import { useStanding } from "./useCutOuts";

/** The one of the catalogue who sits, how far before a seat its floor is looked for, and how high seats are. */
const SITS = "person-sitting";
const BESIDE_M = 0.7;
const SEAT_M = [0.3, 0.65];

/** Pointing at the picture while cut-outs are in hand: places what is taken, chooses who stands there, carries the chosen one along. */
export function useCutOutPointer({ slug, view, occasion, project, hands }: AtBench) {
  const { armed, chosen, path, put } = useCutOutHand();
  const notify = useStore((s) => s.notify);
  const dragging = useStore((s) => s.dragging);
  const busy = useRef(false);
  const carried = useRef<Point | null>(null);
  const drags = useRef(0);
  useEffect(() => {
    if (!dragging) carried.current = null;
  }, [dragging]);
  const own = (project?.cutouts ?? []).filter((c) => c.view === view);
  const standing = useStanding(slug, view, occasion, own);
  const here = project ? cutOutsAt(project, view, occasion) : [];
  const things = chosen.flatMap((key) => here.filter((c) => c.key === key));
  const lens = project?.views?.find((v) => v.key === view);

  /** The floor before a seat that was pressed, on which the feet of someone who sits stand; the place itself where it is no seat. */
  const under = async (place: Point): Promise<number> => {
    const [x, y, z] = place;
    const [lx, ly] = lens!.position;
    const far = Math.hypot(lx - x, ly - y) || 1;
    const beside: Point = [x + (BESIDE_M * (lx - x)) / far, y + (BESIDE_M * (ly - y)) / far, z + 0.5];
    const floor = await api.pick(slug, { view, occasion, plan: beside });
    const drop = floor ? z - floor.point[2] : 0;
    return drop > SEAT_M[0] && drop < SEAT_M[1] ? round(floor!.point[2]) : z;
  };

  const point = async (x: number, y: number) => {
    drags.current += 1;
    if (carried.current && things.length) {
      const to = carried.current;
      carried.current = null;
      hands.changes(`Move ${things[0].name}`.slice(0, 120), movedTo(things, to), true);
      return;
    }
    if (!armed && !path) {
      const met = standing
        .filter((s) => here.some((c) => c.key === s.key))
        .filter((s) => x >= s.left && x <= s.right && y >= s.top && y <= s.feet[1] + 0.01)
        .sort((a, b) => a.distance_m - b.distance_m)[0];
      put({ chosen: met ? [met.key] : [] });
      return;
    }
    try {
      const met = await api.pick(slug, { view, occasion, picture: [x, y] });
      if (!met || !project || !lens) {
        notify("Nothing of the stage is there to stand on: it is the sky.", "info");
        return;
      }
      const place = met.point.map(round) as Point;
      if (path) {
        put({ path: [...path, place] });
        return;
      }
      if (armed!.key === SITS && met.normal[2] > 0.8) place[2] = await under(place);
      if (met.normal[2] < 0.5)
        notify("It stands against a wall now: point at the ground to let it stand there.", "info");
      const value = placed(project, lens, armed!, place);
      hands.changes(`Place ${value.name}`.slice(0, 120), [{ part: "cutout", key: value.key, value }], true);
      put({ chosen: [value.key], armed: null });
    } catch (error) {
      if (error instanceof Refusal) notify(error.message, "error");
      else throw error;
    }
  };

  const drag = async (x: number, y: number) => {
    if (things.length === 0 || things[0].locked || busy.current) return;
    busy.current = true;
    const mine = drags.current;
    try {
      const met = await api.pick(slug, { view, occasion, picture: [x, y] });
      if (!met || mine !== drags.current) return;
      carried.current = met.point.map(round) as Point;
      hands.changes("Move", movedTo(things, carried.current), false);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error; // the next move asks again
    } finally {
      busy.current = false;
    }
  };

  /** Put away what is in hand, the last taken first; false where nothing is. */
  const putAway = (): boolean => {
    if (path) put({ path: null });
    else if (armed) put({ armed: null });
    else if (chosen.length) put({ chosen: [] });
    else return false;
    return true;
  };
  const acts: PictureActs = {
    point: (x, y) => void point(x, y),
    drag: things.length && !armed && !path ? (x, y) => void drag(x, y) : undefined,
  };
  return { acts, putAway };
}
