import { useCallback, useEffect, useRef, useState } from "react";

import { api, type Plate } from "../api/client";
import { useStore } from "../state/store";
import { asFactors, type Setting } from "./lights";

interface Way {
  first: number;
  second: number;
  share: number;
}

/** A plate under other levels, or a picture on the way between two plates: what is asked for, and the picture in answer. */
export function useBalancing(slug: string, plate: Plate | null, open: boolean) {
  const [trial, setTrial] = useState<Record<string, Setting> | null>(null);
  const [way, setWay] = useState<Way | null>(null);
  const [url, setUrl] = useState<string | null>(null);
  const asked = useRef<(() => Promise<Blob>) | null>(null);
  const busy = useRef(false);
  /** What was asked for before the picture was put away is of no interest any more. */
  const grasp = useRef(0);
  const show = useCallback((next: Blob | null) => {
    setUrl((old) => {
      if (old) window.setTimeout(() => URL.revokeObjectURL(old), 1000);
      return next && URL.createObjectURL(next);
    });
  }, []);
  /** One picture is on its way at a time; of those wanted meanwhile the newest. */
  const ask = useCallback(
    async (work: () => Promise<Blob>) => {
      asked.current = work;
      if (busy.current) return;
      busy.current = true;
      while (asked.current) {
        const next: () => Promise<Blob> = asked.current;
        asked.current = null;
        const mine = grasp.current;
        try {
          const made = await next();
          if (mine === grasp.current) show(made);
        } catch (error) {
          useStore.getState().notify((error as Error).message, "error");
        }
      }
      busy.current = false;
    },
    [show],
  );
  const putAway = useCallback(() => {
    grasp.current += 1;
    asked.current = null;
    setTrial(null);
    setWay(null);
    show(null);
  }, [show]);
  const id = plate?.id ?? null;
  // What is tried goes with the plate it is of, and with the balance.
  useEffect(putAway, [id, slug, open, putAway]);
  useEffect(() => putAway, [putAway]);

  const tryOut = (settings: Record<string, Setting> | null) => {
    if (!settings || !plate) return putAway();
    setWay(null);
    setTrial(settings);
    void ask(() => api.finishPlate(plate.id, { look: plate.look, ...asFactors(settings), form: "jpeg" }));
  };
  const go = (first: number | null, second: number | null, share: number) => {
    if (first === null || second === null) return putAway();
    setTrial(null);
    setWay({ first, second, share });
    void ask(() => api.between(slug, { first, second, share }));
  };
  return { trial, tryOut, way: { share: way?.share ?? null, go }, url, putAway };
}

export type Balancing = ReturnType<typeof useBalancing>;
