import { create } from "zustand";

import type { Arrival } from "../api/client";

/** A model on its way in. */
export interface Reading {
  ticket: string;
  name: string;
  words: string;
  share: number;
}

/** Models that were read and wait to be taken, oldest first; and those that are being read. */
interface Waiting {
  readings: Reading[];
  read: (reading: Reading) => void;
  over: (ticket: string) => void;
  arrivals: { slug: string; arrival: Arrival }[];
  add: (slug: string, arrival: Arrival) => void;
  /** The first is done with. */
  done: () => void;
}

export const useArrivals = create<Waiting>((set) => ({
  readings: [],
  read: (reading) =>
    set((s) => ({
      readings: s.readings.some((r) => r.ticket === reading.ticket)
        ? s.readings.map((r) => (r.ticket === reading.ticket ? reading : r))
        : [...s.readings, reading],
    })),
  over: (ticket) => set((s) => ({ readings: s.readings.filter((r) => r.ticket !== ticket) })),
  arrivals: [],
  add: (slug, arrival) => set((s) => ({ arrivals: [...s.arrivals, { slug, arrival }] })),
  done: () => set((s) => ({ arrivals: s.arrivals.slice(1) })),
}));
