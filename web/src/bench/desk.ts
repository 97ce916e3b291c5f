/** What lies on the bench: what is chosen, in hand and open, as one state that changes by acts alone. */
import { useReducer } from "react";

import type { Quality } from "../api/client";
import type { PictureMode } from "../api/live";
import type { Proof } from "../judge/Judge";
import type { Guide } from "../lens/LensOver";

export const SURROUNDS = ["light", "middle", "dark"] as const;

export interface Desk {
  /** How the live picture is shown, and the only fixture group that is. */
  mode: PictureMode;
  alone: string | null;
  /** The quality of the next plate. */
  quality: Quality;
  /** The plate that was shown before, to compare with. */
  other: number | null;
  comparing: boolean;
  balancing: boolean;
  judging: boolean;
  metering: boolean;
  /** The sheet of keys is open. */
  keys: boolean;
  surround: number;
  /** Chosen fixtures, the first of which shows its settings; and the kind that is about to be placed. */
  fixtures: string[];
  kind: string | null;
  surface: string | null;
  /** The object that was pointed at with it. */
  object: string | null;
  /** The treatment whose limit is shown in the picture, by its number in the look. */
  marked: number | null;
  /** Further plates that are compared, and the print profile by which plates are seen. */
  more: readonly number[];
  proof: Proof | null;
  /** Guides over the picture, the frame to cut to, and whether a ring of the lens takes the shutter along. */
  guides: readonly Guide[];
  cropping: boolean;
  holdsEv: boolean;
}

export const EMPTY: Desk = {
  mode: "picture",
  alone: null,
  quality: "proof",
  other: null,
  comparing: false,
  balancing: false,
  judging: false,
  metering: false,
  keys: false,
  surround: 0,
  fixtures: [],
  kind: null,
  surface: null,
  object: null,
  marked: null,
  more: [],
  proof: null,
  guides: [],
  cropping: false,
  holdsEv: false,
};

/** Readings of the finished picture. */
export const JUDGED: readonly PictureMode[] = ["grey", "zones", "protan", "deutan", "tritan"];

type Switch = "comparing" | "balancing" | "metering" | "judging";
export type Act =
  | { put: Partial<Desk> }
  | { turn: Switch }
  | "next surround"
  /** Escape: what was taken last is put away. `pointing` is in hand elsewhere, after a kind and before all else. */
  | "put away";

/** What Escape puts away, the last taken first. */
const HELD: [keyof Desk, Partial<Desk>][] = [
  ["kind", { kind: null }],
  ["metering", { metering: false }],
  ["comparing", { comparing: false }],
  ["cropping", { cropping: false }],
  ["fixtures", { fixtures: [] }],
  ["surface", { surface: null }],
  ["balancing", { balancing: false, alone: null }],
  ["judging", { judging: false, proof: null }],
];
const isHeld = (value: Desk[keyof Desk]) => (Array.isArray(value) ? value.length > 0 : Boolean(value));

/** Ways of seeing that Judge alone offers end with it: nothing else would say why the picture is grey. */
function unseen(desk: Desk): Desk {
  return desk.judging || !JUDGED.includes(desk.mode) ? desk : { ...desk, mode: "picture" };
}

export function changed(desk: Desk, act: Act): Desk {
  if (act === "next surround") return { ...desk, surround: (desk.surround + 1) % SURROUNDS.length };
  if (act === "put away") {
    const held = HELD.find(([name]) => isHeld(desk[name]));
    return held ? unseen({ ...desk, ...held[1] }) : desk;
  }
  if ("turn" in act) {
    const off = desk[act.turn] ? HELD.find(([name]) => name === act.turn)?.[1] : undefined;
    return unseen({ ...desk, ...(off ?? { [act.turn]: true }) });
  }
  return { ...desk, ...act.put };
}

export function useDesk() {
  return useReducer(changed, EMPTY);
}
