/** What the server knows, kept by the question: asked once however many ask, and anew when what it depends on has changed. */
import { keepPreviousData, QueryCache, QueryClient, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";

import { useStore } from "./store";

export const queries = new QueryClient({
  queryCache: new QueryCache({
    onError: (error, query) => {
      if (query.meta?.told) useStore.getState().notify(error.message, "error");
    },
  }),
  defaultOptions: {
    queries: {
      // A loss of connection is told, and heals, in one place: see state/store.ts.
      retry: false,
      refetchOnWindowFocus: false,
      refetchOnReconnect: false,
      networkMode: "always",
    },
  },
});

interface How<T> {
  /** Tell the user when it cannot be answered; else what hangs on it stays empty. */
  told?: boolean;
  /** Ask only when the question has stood for so long. */
  afterMs?: number;
  /** The answer never changes while the page is open. */
  fixed?: boolean;
  /** There is something to ask. */
  ready?: boolean;
  /** While another answer is on its way, the last one stands. */
  keep?: boolean;
  /** What stands in for an answer that could not be had. */
  otherwise?: T;
}

/** The answer to a question, undefined until it is there. `key` names the question and all that its answer depends on. */
export function useServer<T>(
  key: readonly unknown[],
  ask: () => Promise<T>,
  how: How<T> = {},
): T | undefined {
  const { answer, refusal } = useAnswer(key, ask, how);
  return answer ?? (refusal !== undefined ? how.otherwise : undefined);
}

/** The answer to a question, or why there is none; neither until one of them is there. */
export function useAnswer<T>(
  key: readonly unknown[],
  ask: () => Promise<T>,
  how: How<T> = {},
): { answer?: T; refusal?: string } {
  const { told = false, afterMs = 0, fixed = false, ready = true, keep = true } = how;
  const settled = useSettled(JSON.stringify(key), afterMs);
  const { data, error } = useQuery(
    {
      queryKey: key,
      // What is asked may be of something that was added a moment ago and is still on its way to the server.
      queryFn: () => useStore.getState().answered()?.then(ask) ?? ask(),
      enabled: ready && settled,
      staleTime: fixed ? Infinity : 0,
      placeholderData: keep ? keepPreviousData : undefined,
      meta: { told },
    },
    queries,
  );
  return { answer: data, refusal: error?.message };
}

/** Whether a text has stood for some time. */
function useSettled(text: string, ms: number): boolean {
  const [stood, setStood] = useState(ms > 0 ? "" : text);
  useEffect(() => {
    if (ms === 0) return;
    const wait = window.setTimeout(() => setStood(text), ms);
    return () => window.clearTimeout(wait);
  }, [text, ms]);
  return ms === 0 || stood === text;
}

/** What the server's stage is made of now: drawings and figures of it depend on these. */
export function useModels(): string[] {
  const placements = useStore((s) => s.saved?.description.placements);
  const layers = useStore((s) => s.saved?.description.layers);
  return useMemo(
    () => [
      ...(placements ?? []).map((p) =>
        JSON.stringify({ ...p, name: p.made ? p.name : "", locked: false, group: null, lamp: null }),
      ),
      ...(layers ?? []).map((l) => JSON.stringify([l.in_models, l.key])).sort(),
    ],
    [placements, layers],
  );
}
