/** The treatments of a look: a list in the order in which meaning puts them. */
import type { Look, Treatment, TreatmentLine } from "../api/client";

export type Numbers = Record<string, number | boolean | string | null | undefined>;
export type Limit = Partial<NonNullable<Treatment["limit"]>>;

/** A kind put into the list where its place is, after those of its kind; and where it then stands. */
export function added(
  kinds: TreatmentLine[],
  treatments: Treatment[],
  kind: TreatmentLine,
  patch: object = {},
): { treatments: Treatment[]; index: number } {
  const placeOf = (t: Treatment) => kinds.find((k) => k.kind === t.kind)?.place ?? 0;
  const after = treatments.findIndex((t) => placeOf(t) > kind.place);
  const index = after < 0 ? treatments.length : after;
  const made = { ...kind.at_first, on: true, ...patch } as Treatment;
  return { treatments: [...treatments.slice(0, index), made, ...treatments.slice(index)], index };
}

/** The list with one of its treatments changed; taken away where the patch is null. */
export function changedAt(treatments: Treatment[], index: number, patch: object | null): Treatment[] {
  return treatments.flatMap((t, k) =>
    k !== index ? [t] : patch === null ? [] : [{ ...t, ...patch } as Treatment],
  );
}

/** A look with other treatments. */
export const withTreatments = (look: Look, treatments: Treatment[]): Look => ({ ...look, treatments });

/** A limit with a part changed; null where nothing is left of it. */
export function changedLimit(limit: Limit | null | undefined, patch: Partial<Limit>): Limit | null {
  const made = Object.fromEntries(
    Object.entries({ ...limit, ...patch }).filter(
      ([, v]) => v !== null && v !== undefined && v !== false && !(Array.isArray(v) && v.length === 0),
    ),
  ) as Limit;
  const narrows = Object.keys(made).some((name) => name !== "elsewhere");
  return narrows ? made : null;
}

/** What a limit goes by, in words. */
export function limitInWords(limit: Limit | null | undefined): string {
  if (!limit) return "everywhere";
  const words = [
    limit.objects?.join(", "),
    limit.surfaces?.join(", "),
    limit.groups?.length ? `light of ${limit.groups.join(", ")}` : "",
    limit.distance_m ? `${limit.distance_m.low} to ${limit.distance_m.high} m away` : "",
    limit.height_m ? `${limit.height_m.low} to ${limit.height_m.high} m high` : "",
    limit.stops ? `${limit.stops.low} to ${limit.stops.high} stops` : "",
    limit.hues ? `hues about ${Math.round(limit.hues.middle_deg)}°` : "",
    limit.gradient ? "a gradient" : "",
    limit.strokes?.length ? "brushed" : "",
  ].filter(Boolean);
  return `${limit.elsewhere ? "all but " : ""}${words.join("; ")}`;
}

/** Whether a limit is these surfaces and nothing else. */
export function isOf(limit: Limit | null | undefined, surface: string | null): boolean {
  if (surface === null) return !limit;
  const only = Object.entries(limit ?? {}).filter(([, v]) => v && !(Array.isArray(v) && v.length === 0));
  return only.length === 1 && limit?.surfaces?.length === 1 && limit.surfaces[0] === surface;
}

/** A number as its neighbours on a form's rule: a little less, a little more. */
export function beside(value: number, low: number, high: number, step: number): [number, number] {
  const by = Math.max(Math.round((high - low) / 12 / step), 1) * step;
  const held = (v: number) => Number(Math.min(Math.max(v, low), high).toFixed(6));
  return [held(value - by), held(value + by)];
}
