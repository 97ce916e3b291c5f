import { api, type Look } from "../api/client";
import type { LiveHeader } from "../api/live";
import { useServer } from "../state/server";

const WAIT_MS = 200;

/** The picture on the bench, small, under looks; undefined until it is there. */
export function useTried(
  at: { slug: string; view: string; occasion: string },
  looks: Look[],
  width: number,
  header: LiveHeader | null,
): string[] | undefined {
  const { slug, view, occasion } = at;
  // A finer picture of the same film looks the same so small; another hour or lens has another serial.
  const picture = header ? [header.width > 480, Math.round(Math.log2(header.samples + 1))] : null;
  return useServer(
    ["tried", slug, view, occasion, looks, width, picture, header?.altitude_deg, header?.shares],
    () => api.tryLooks(slug, view, occasion, looks, width),
    { ready: header !== null && looks.length > 0, afterMs: WAIT_MS },
  );
}
