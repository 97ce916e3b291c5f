import { create } from "zustand";

/** What is in hand of the objects: what is about to be placed, and what is chosen on the stage. */
interface Hand {
  /** A family with its numbers, placed at the next press. */
  armed: { family: string; parameters: Record<string, number> } | null;
  /** Keys of chosen things, the one in hand first. */
  chosen: string[];
  /** An outline being drawn to strew the thing in hand over, in metres; null where none is. */
  outline: [number, number][] | null;
  /** A floor or wall that is to be dappled by leaves: where, and how wide in metres; its spot null until it is pointed at. */
  leaves: { spot: Spot | null; across: number } | null;
  /** Key of the layer that new things stand on. */
  layer: string | null;
  tab: StageTab;
  put: (some: Partial<Omit<Hand, "put">>) => void;
}

export interface Spot {
  point: [number, number, number];
  normal: [number, number, number];
  object: string;
}

export type StageTab = "models" | "objects" | "layers";

export const useHand = create<Hand>((set) => ({
  armed: null,
  chosen: [],
  outline: null,
  leaves: null,
  layer: null,
  tab: "models",
  put: (some) => set(some),
}));
