import { create } from "zustand";

import type { Arrival } from "../api/client";

/** Models that were read and wait to be taken, oldest first. */
interface Waiting {
  arrivals: { slug: string; arrival: Arrival }[];
  add: (slug: string, arrival: Arrival) => void;
  /** The first is done with. */
  done: () => void;
}

export const useArrivals = create<Waiting>((set) => ({
  arrivals: [],
  add: (slug, arrival) => set((s) => ({ arrivals: [...s.arrivals, { slug, arrival }] })),
  done: () => set((s) => ({ arrivals: s.arrivals.slice(1) })),
}));
