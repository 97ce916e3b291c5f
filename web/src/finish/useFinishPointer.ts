import { useRef, useState } from "react";

import { api, type Look } from "../api/client";
import type { AtBench } from "../bench/useBench";
import { lookOf } from "../bench/steps";
import { type Done, useStore } from "../state/store";
import type { Laying } from "./LimitEditor";
import { added, changedAt, changedLimit, isOf, type Limit, type Numbers, withTreatments } from "./treatments";
import { useTreatments } from "./useTreatments";

/** What a drag in the picture changes, or a press sets. */
export type Tool = "exposure" | "warmth" | "contrast" | "grey";
/** What the hand does in the picture: a tool, or laying the limit of one of the look's treatments. */
export type InPicture = { tool: Tool } | { laying: Laying; number: number };

type Place = [number, number];
/** The kind that a tool changes, and its value once the hand has gone up by a height of the picture. */
const DRAGGED: Record<
  Exclude<Tool, "grey">,
  { kind: string; field: string; at: (from: number, up: number) => number }
> = {
  exposure: { kind: "exposure", field: "stops", at: (from, up) => Number((from + 6 * up).toFixed(2)) },
  warmth: { kind: "white_balance", field: "kelvin", at: (from, up) => Math.round(from * 2 ** (2 * up)) },
  contrast: { kind: "contrast", field: "amount", at: (from, up) => Number((from + 2 * up).toFixed(2)) },
};
const RANGES: Record<string, [number, number]> = { stops: [-10, 10], kelvin: [1000, 25000], amount: [-1, 1] };
/** Places of a stroke stand so far apart, in widths of the picture; it has so many at most. */
const [APART, MOST, RADIUS] = [0.004, 500, 0.04];

interface Grasp {
  from: Place;
  wide: boolean;
  /** What is pointed at: undefined until it is known, null for the whole picture. */
  surface: string | null | undefined;
  stroke: Place[];
  last: Place;
  done: boolean;
}

/** Dragging and pointing in the picture while the look is in hand. */
export function useFinishPointer({ slug, view, occasion, project, hands }: AtBench) {
  const [inPicture, setInPicture] = useState<InPicture | null>(null);
  const grasp = useRef<Grasp | null>(null);
  const kinds = useTreatments();
  const notify = useStore((s) => s.notify);
  const shownView = project?.views?.find((v) => v.key === view);
  const look = project && shownView ? lookOf(project, shownView, occasion) : null;
  const saved = () => {
    const settled = useStore.getState().settled();
    const there = settled?.views?.find((v) => v.key === view);
    return settled && there ? lookOf(settled, there, occasion) : look;
  };
  const put = (label: string, made: Look, done: Done) => hands.look(label, made, done);
  const failed = (error: unknown) => notify((error as Error).message, "error");

  const tuned = (
    base: Look,
    tool: Exclude<Tool, "grey">,
    surface: string | null,
    up: number,
  ): Look | null => {
    const { kind, field, at } = DRAGGED[tool];
    const line = kinds.find((k) => k.kind === kind);
    if (!line) return null;
    const list = base.treatments ?? [];
    const index = list.findIndex((t) => t.kind === kind && t.on !== false && isOf(t.limit, surface));
    const limit: Limit | null = surface === null ? null : { surfaces: [surface] };
    const from = ((index >= 0 ? list[index] : line.at_first) as unknown as Numbers)[field] as number;
    const [low, high] = RANGES[field];
    const patch = { [field]: Math.min(Math.max(at(from, up), low), high) };
    return withTreatments(
      base,
      index >= 0 ? changedAt(list, index, patch) : added(kinds, list, line, { ...patch, limit }).treatments,
    );
  };

  const press = (x: number, y: number, whole: boolean) => {
    const held: Grasp = {
      from: [x, y],
      wide: whole,
      surface: undefined,
      stroke: [[x, y]],
      last: [x, y],
      done: false,
    };
    grasp.current = held;
    if (!inPicture || !("tool" in inPicture) || inPicture.tool === "grey") return;
    if (whole) held.surface = null;
    else
      api.pick(slug, { view, occasion, picture: [x, y], as_seen: true }).then(
        (met) => {
          held.surface = met?.material ?? null;
          // The hand may have moved, or let go, while the answer was on its way.
          if (held.last[1] !== held.from[1]) act(held, held.done);
        },
        (error) => failed(error),
      );
  };

  const act = (held: Grasp, done: boolean) => {
    const base = saved();
    if (!base || !inPicture) return;
    if ("tool" in inPicture) {
      if (inPicture.tool === "grey" || held.surface === undefined) return;
      const made = tuned(base, inPicture.tool, held.surface, held.from[1] - held.last[1]);
      if (made) put(`${inPicture.tool} in the picture`, made, done);
      return;
    }
    const { laying, number } = inPicture;
    const list = base.treatments ?? [];
    const limit = list[number]?.limit;
    const narrowed = (patch: Partial<Limit>) =>
      put(
        "Limit",
        withTreatments(base, changedAt(list, number, { limit: changedLimit(limit, patch) })),
        done,
      );
    if (laying === "gradient") {
      if (Math.hypot(held.last[0] - held.from[0], held.last[1] - held.from[1]) > 0.005)
        narrowed({ gradient: { start: held.from, end: held.last } });
    } else if (laying === "brush" || laying === "away") {
      const radius = held.wide ? 2 * RADIUS : RADIUS;
      const stroke = { points: held.stroke, radius, soft: 0.5, away: laying === "away" };
      narrowed({ strokes: [...(limit?.strokes ?? []), stroke] });
    }
  };

  const drag = (x: number, y: number) => {
    const held = grasp.current;
    if (!held) return;
    held.last = [x, y];
    const [px, py] = held.stroke[held.stroke.length - 1];
    if (held.stroke.length < MOST && Math.hypot(x - px, y - py) > APART) held.stroke.push([x, y]);
    act(held, false);
  };

  const point = (x: number, y: number) => {
    const held = grasp.current ?? {
      from: [x, y] as Place,
      wide: false,
      surface: null,
      stroke: [[x, y] as Place],
      last: [x, y] as Place,
      done: true,
    };
    grasp.current = null;
    held.last = [x, y];
    held.done = true;
    if (!inPicture) return;
    const moved = Math.hypot(x - held.from[0], y - held.from[1]) > 0.003;
    if ("tool" in inPicture) {
      if (inPicture.tool === "grey") void grey(x, y);
      else if (moved) act(held, true);
      return;
    }
    const { laying, number } = inPicture;
    if (laying === "surfaces" || laying === "objects") void name(x, y, laying, number);
    else act(held, true);
  };

  /** Set the white balance so that what is pointed at is grey. */
  const grey = async (x: number, y: number) => {
    try {
      const found = (await api.meter(slug, { view, occasion, x, y, radius: 0.006 })).grey;
      const line = kinds.find((k) => k.kind === "white_balance");
      const base = saved(); // it may have been changed while the meter read
      if (!base) return;
      if (!found || !line)
        return notify("It is too dark there to tell its colour. Point at something lighter.");
      const list = base.treatments ?? [];
      const index = list.findIndex((t) => t.kind === line.kind && !t.limit);
      const made =
        index >= 0
          ? changedAt(list, index, { ...found, on: true })
          : added(kinds, list, line, found).treatments;
      put("Grey pointed at", withTreatments(base, made), true);
      setInPicture(null);
    } catch (error) {
      failed(error);
    }
  };

  const name = async (x: number, y: number, what: "surfaces" | "objects", number: number) => {
    try {
      const met = await api.pick(slug, { view, occasion, picture: [x, y], as_seen: true });
      const found = what === "surfaces" ? met?.material : met?.object;
      const base = saved();
      if (!base) return;
      if (!found) return notify("Nothing is met there: point at a thing, not at the sky.");
      const list = base.treatments ?? [];
      const before = list[number]?.limit;
      const names = before?.[what] ?? [];
      const after = names.includes(found) ? names.filter((n) => n !== found) : [...names, found];
      const limit = changedLimit(before, { [what]: after });
      put("Limit", withTreatments(base, changedAt(list, number, { limit })), true);
    } catch (error) {
      failed(error);
    }
  };

  return { look, inPicture, setInPicture, acts: { press, drag, point } };
}

export type FinishPointer = ReturnType<typeof useFinishPointer>;
