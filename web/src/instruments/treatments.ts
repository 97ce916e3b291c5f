/** The treatments of a look among the kinds that there are. */
import type { Look, Treatment, TreatmentLine } from "../api/client";

/** The look's treatments in its own order, with those it does not hold where meaning puts them. */
export function inOrder(
  kinds: TreatmentLine[],
  treatments: Treatment[],
): [TreatmentLine, Treatment | undefined][] {
  const shown: [TreatmentLine, Treatment | undefined][] = treatments.flatMap((t) => {
    const kind = kinds.find((k) => k.kind === t.kind);
    return kind ? [[kind, t] as [TreatmentLine, Treatment]] : [];
  });
  for (const kind of kinds.filter((k) => !treatments.some((t) => t.kind === k.kind))) {
    const after = shown.findIndex(([k]) => k.place > kind.place);
    shown.splice(after < 0 ? shown.length : after, 0, [kind, undefined]);
  }
  return shown;
}

/** The treatments with one changed, or put in its place when the look did not hold it. */
export function changedTreatments(
  kinds: TreatmentLine[],
  treatments: Treatment[],
  kind: TreatmentLine,
  patch: Record<string, unknown>,
): Look["treatments"] {
  return inOrder(kinds, treatments).flatMap(([k, t]) => {
    if (k.kind !== kind.kind) return t ? [t] : [];
    return [{ ...(t ?? { ...k.at_first, on: false }), ...patch } as Treatment];
  });
}
