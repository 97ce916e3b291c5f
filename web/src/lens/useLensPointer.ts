import { useState } from "react";

import { api } from "../api/client";
import { lensForEv } from "../bench/exposure";
import { exposureValue, lensOf } from "../bench/steps";
import type { AtBench } from "../bench/useBench";
import { useStore } from "../state/store";

/** What pointing at the picture sets: what is sharp, or what is exposed as middle grey. */
export type Pointing = "focus" | "key";

/** Pointing at the picture while the lens is in hand. */
export function useLensPointer({ slug, view, occasion, project, hands }: AtBench) {
  const [pointing, setPointing] = useState<Pointing | null>(null);
  const notify = useStore((s) => s.notify);
  const point = async (x: number, y: number) => {
    const what = pointing;
    setPointing(null);
    try {
      if (what === "focus") {
        const { focus_m } = await api.focusAt(slug, view, { occasion, x, y });
        if (focus_m === null) return notify("The sky is seen there: it is sharp at the farthest focus.");
        hands.view("Focus", { focus_m }, true);
      } else {
        const { stops } = await api.meter(slug, { view, occasion, x, y, radius: 0.02 });
        const now = (useStore.getState().settled() ?? project)?.views?.find((v) => v.key === view);
        if (stops === null || !now) return notify("It is black there: point at something lit.");
        const lens = lensOf(now, occasion);
        hands.lens("Exposure by key area", lensForEv(lens, exposureValue(lens) + stops), true);
      }
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  return { pointing, setPointing, point: (x: number, y: number) => void point(x, y) };
}

export type LensPointer = ReturnType<typeof useLensPointer>;
