import {
  api,
  type Change,
  type Placement,
  type Project,
  type ProjectState,
  type ThingWanted,
} from "../api/client";
import { asked, madePart } from "../state/asked";
import { useStore } from "../state/store";
import { freeKey } from "../ui/format";
import { useHand } from "./hand";

type Point = [number, number, number];
export const round = (v: number) => Math.round(v * 1000) / 1000;

/** Place an object on the active layer; its key, or null where it was refused. */
export function placeThing(slug: string, wanted: ThingWanted): Promise<string | null> {
  const active = useHand.getState().layer;
  const layers = useStore.getState().settled()?.layers ?? [];
  const layer = layers.some((l) => l.key === active) ? active : null;
  return madePart(() => api.placeThing(slug, { layer, ...wanted }));
}

/** Set one field of some things. */
export function setField(
  things: Placement[],
  field: keyof Placement,
  value: (p: Placement) => unknown,
): Change[] {
  return things.map((p) => ({ part: "placement", key: p.key, at: [field], value: value(p) }));
}

/** Move things so that the first comes to stand at a point; those that are locked stay. */
export function movedTo(things: Placement[], to: Point): Change[] {
  const free = things.filter((p) => !p.locked);
  const from = free[0]?.position;
  if (!from) return [];
  return setField(free, "position", (p) => p.position!.map((v, k) => round(v + to[k] - from[k])));
}

/** Copies of things that share their file, a little aside; and their keys. */
export function copied(project: Project, things: Placement[]): { changes: Change[]; keys: string[] } {
  const taken = new Set((project.placements ?? []).map((p) => p.key));
  const names = new Set((project.placements ?? []).map((p) => p.name));
  const keys: string[] = [];
  // Copies of a group are a group of their own.
  const known = new Set((project.placements ?? []).flatMap((p) => (p.group ? [p.group] : [])));
  const groups = new Map<string, string>();
  for (const group of new Set(things.flatMap((p) => (p.group ? [p.group] : [])))) {
    groups.set(group, freeKey(group.replace(/-\d+$/, ""), known));
    known.add(groups.get(group)!);
  }
  const changes = things.flatMap((p): Change[] => {
    const key = freeKey(p.key.replace(/-\d+$/, ""), taken);
    const stem = p.name.replace(/ \d+$/, "");
    let number = 2;
    while (names.has(`${stem} ${number}`)) number += 1;
    const name = `${stem} ${number}`;
    taken.add(key);
    names.add(name);
    keys.push(key);
    const [x, y, z] = p.position!;
    const group = p.group ? (groups.get(p.group) ?? null) : null;
    const value = { ...p, key, name, group, locked: false, position: [round(x + 0.5), round(y + 0.5), z] };
    const flags = project.stage?.objects?.[p.name];
    const alike: Change[] = flags ? [{ part: "stage", at: ["objects", name], value: flags }] : [];
    return [{ part: "placement", key, value }, ...alike];
  });
  return { changes, keys };
}

/** Take over a change that the server works out. */
async function taken(ask: () => Promise<ProjectState>): Promise<void> {
  const state = await asked(ask);
  if (state) useStore.getState().adopt(state);
}

/** Other numbers for an object, or another object in its place; for its linked copies too, unless it is to be `alone`. */
export const makeAnew = (
  slug: string,
  key: string,
  family: string,
  parameters: Record<string, number>,
  alone = false,
) => taken(() => api.makeThing(slug, key, family, parameters, alone));
/** Down to what lies below. */
export const dropped = (slug: string, key: string) => taken(() => api.dropThing(slug, key));
/** Its copies become things of their own. */
export const takenApart = (slug: string, key: string) => taken(() => api.takeApart(slug, key));
