import { create } from "zustand";

import type { CutOutOffer } from "../api/client";

type Point = [number, number, number];

/** What is in hand of the cut-outs: what is about to be placed, what is chosen, and the path of a crowd. */
interface Hand {
  armed: CutOutOffer | null;
  /** Keys of chosen cut-outs, the one in hand first. */
  chosen: string[];
  /** Places that a crowd is to walk along; null where none is laid. */
  path: Point[] | null;
  put: (some: Partial<Omit<Hand, "put">>) => void;
}

export const useCutOutHand = create<Hand>((set) => ({
  armed: null,
  chosen: [],
  path: null,
  put: (some) => set(some),
}));
