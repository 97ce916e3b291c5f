import { useState } from "react";

import { api, type MeterReading } from "../api/client";
import { useStore } from "../state/store";

/** The meter: where it was pointed, over what radius, and what it read there. */
export function useMeter(slug: string, view: string, occasion: string) {
  const [reading, setReading] = useState<MeterReading | null>(null);
  const [at, setAt] = useState<{ x: number; y: number } | null>(null);
  const [radius, setRadius] = useState(0);
  const notify = useStore((s) => s.notify);
  const read = async (x: number, y: number, over = radius) => {
    setAt({ x, y });
    try {
      setReading(await api.meter(slug, { view, occasion, x, y, radius: over }));
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  return {
    reading,
    radius,
    /** The spot in the picture. */
    spot: at && { ...at, radius },
    read: (x: number, y: number) => void read(x, y),
    setRadius: (over: number) => {
      setRadius(over);
      if (at) void read(at.x, at.y, over);
    },
  };
}
