import { api } from "../api/client";
import { useServer } from "../state/server";
import { useStore } from "../state/store";

/** The sun's way over a day at the project's place, and the colours of the sky by it. */
export function useSunOfDay(slug: string, day: string, turbidity: number, afterMs = 0) {
  const site = useStore((s) => s.saved?.description.site);
  return useServer(["sun", slug, site, day, turbidity], () => api.sun(slug, day, turbidity), { afterMs });
}
