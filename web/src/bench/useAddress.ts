import { useCallback } from "react";
import { useSearchParams } from "react-router";

import type { DaylightTab } from "../daylight/Daylight";
import { STEPS, type Step } from "./steps";

const SHEET_KEYS = ["picture", "plan", "stage"] as const;
export type Sheet = (typeof SHEET_KEYS)[number];

interface Place {
  step: Step;
  sheet: Sheet;
  /** The plate looked at, null for the live picture. */
  plate: number | null;
  tab: DaylightTab;
}

const AT_FIRST: Place = { step: "daylight", sheet: "picture", plate: null, tab: "sun" };

/** Where one is on the bench stands in the address, so that it can be sent, kept, and gone back from. */
export function useAddress() {
  const [params, setParams] = useSearchParams();
  const one = <T extends string>(name: string, known: readonly T[], usual: T): T => {
    const given = params.get(name)?.toLowerCase() as T;
    return known.includes(given) ? given : usual;
  };
  const number = Number(params.get("plate"));
  const place: Place = {
    step: one("step", STEPS, AT_FIRST.step),
    sheet: one("sheet", SHEET_KEYS, AT_FIRST.sheet),
    plate: Number.isInteger(number) && number > 0 ? number : null,
    tab: one("tab", ["sun", "sky", "hour"] as const, AT_FIRST.tab),
  };
  const go = useCallback(
    (to: Partial<Place>) =>
      setParams((was) => {
        const next = new URLSearchParams(was);
        for (const [name, value] of Object.entries(to)) {
          if (value === AT_FIRST[name as keyof Place]) next.delete(name);
          else next.set(name, String(value));
        }
        return next;
      }),
    [setParams],
  );
  return { ...place, go };
}
