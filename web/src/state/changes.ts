/** Changes as fine as one field, so that what two hands do to different fields holds side by side. */
import type { Change, Project } from "../api/client";

const PLURAL = {
  placement: "placements",
  layer: "layers",
  view: "views",
  occasion: "occasions",
  look: "looks",
  kind: "kinds",
  fixture: "fixtures",
  scene: "scenes",
  cutout: "cutouts",
  sequence: "sequences",
} as const;
const SINGLE = ["name", "site", "stage"] as const;
const DEEPEST = 8;
type Single = (typeof SINGLE)[number];
type Table = Record<string, unknown>;
type Path = (string | number)[];

const isSingle = (part: Change["part"]): part is Single => (SINGLE as readonly string[]).includes(part);
const isTable = (v: unknown): v is Table => typeof v === "object" && v !== null && !Array.isArray(v);
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** The description with changes applied, as the server would. */
export function withChanges(project: Project, changes: Change[]): Project {
  let result: Project = project;
  for (const change of changes) {
    if (change.part === "plate") continue;
    if (isSingle(change.part)) {
      const value = change.at?.length ? put(result[change.part], change.at, change) : change.value;
      result = { ...result, [change.part]: value };
      continue;
    }
    const list = PLURAL[change.part];
    result = { ...result, [list]: changedList(result[list] as Table[], change) } as Project;
  }
  return result;
}

function changedList(items: Table[], change: Change): Table[] {
  const index = items.findIndex((item) => item.key === change.key);
  const moves = change.place != null;
  const onlyMoves = moves && change.value == null && !change.at?.length;
  if (change.value == null && !change.at?.length && !moves)
    return items.filter((item) => item.key !== change.key);
  if (index < 0 && (change.at?.length || onlyMoves)) return items;
  const item = onlyMoves
    ? items[index]
    : change.at?.length
      ? (put(items[index], change.at, change) as Table)
      : (change.value as Table);
  if (!moves) return index < 0 ? [...items, item] : items.map((old, k) => (k === index ? item : old));
  const rest = items.filter((_, k) => k !== index);
  return [...rest.slice(0, change.place!), item, ...rest.slice(change.place!)];
}

/** A value with the field at a path set or taken away; as it was where the path leads nowhere. */
function put(value: unknown, [step, ...rest]: Path, change: Change): unknown {
  if (Array.isArray(value) && typeof step === "number") {
    if (rest.length) return value.map((v, k) => (k === step ? put(v, rest, change) : v));
    const tail = value.slice(step + 1);
    return change.away
      ? [...value.slice(0, step), ...tail]
      : [...value.slice(0, step), change.value, ...tail];
  }
  if (!isTable(value)) return value;
  if (rest.length) return { ...value, [step]: put(value[step], rest, change) };
  if (!change.away) return { ...value, [step]: change.value };
  return Object.fromEntries(Object.entries(value).filter(([name]) => name !== step));
}

/** The same changes as fine as they can be told: only the fields that differ from what stands in the project. */
export function asFine(project: Project, changes: Change[]): Change[] {
  return changes.flatMap((change) => {
    if (change.at?.length || change.value == null || change.place != null || change.part === "plate")
      return [change];
    const before = isSingle(change.part)
      ? project[change.part]
      : (project[PLURAL[change.part]] as Table[]).find((item) => item.key === change.key);
    if (!isTable(before) || !isTable(change.value)) return same(before, change.value) ? [] : [change];
    return differences(before, change.value).map((d) => ({ part: change.part, key: change.key ?? "", ...d }));
  });
}

type Difference = { at: Path; value?: unknown; away?: boolean };

function differences(before: unknown, after: unknown, at: Path = []): Difference[] {
  if (same(before, after)) return [];
  if (at.length < DEEPEST - 1 && isTable(before) && isTable(after)) {
    const fields = [...new Set([...Object.keys(before), ...Object.keys(after)])];
    return fields.flatMap((field) => {
      const here = [...at, field];
      // What is left out of a partial value is left alone at the top, and taken away within tables.
      if (!(field in after) || after[field] === undefined)
        return before[field] === undefined || at.length === 0 ? [] : [{ at: here, away: true }];
      if (!(field in before)) return [{ at: here, value: after[field] }];
      return differences(before[field], after[field], here);
    });
  }
  const likeLists =
    Array.isArray(before) && Array.isArray(after) && before.length === after.length && after.every(isTable);
  if (at.length < DEEPEST - 1 && likeLists)
    return after.flatMap((value, k) => differences(before[k], value, [...at, k]));
  return [{ at, value: after ?? null }];
}

/** Whether two lists of changes touch just the same fields. */
export function touchTheSame(a: Change[], b: Change[]): boolean {
  const fields = (changes: Change[]) =>
    changes
      .map((c) => JSON.stringify([c.part, c.key, c.at ?? []]))
      .sort()
      .join();
  return fields(a) === fields(b);
}
