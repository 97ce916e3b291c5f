import { useEffect, useState } from "react";

import { api, type TreatmentLine } from "../api/client";
import { useStore } from "../state/store";

let known: TreatmentLine[] = [];

/** All kinds, asked for once; none until they are there. */
export function useTreatments(): TreatmentLine[] {
  const [kinds, setKinds] = useState(known);
  const notify = useStore((s) => s.notify);
  useEffect(() => {
    if (known.length > 0) return;
    let alive = true;
    api.treatments().then(
      (found) => {
        known = found;
        if (alive) setKinds(found);
      },
      (error: Error) => notify(error.message, "error"),
    );
    return () => {
      alive = false;
    };
  }, [notify]);
  return kinds;
}
