import { useCallback, useEffect } from "react";

import { api } from "../api/client";
import { LiveLink } from "../api/live";
import { queries, useServer } from "../state/server";

export interface Filters {
  text: string;
  beam_from?: number;
  beam_to?: number;
  lumens_from?: number;
  lumens_to?: number;
  kelvin_from?: number;
  kelvin_to?: number;
  shape: string;
  mounting: string;
  like?: string;
}

export const NO_FILTERS: Filters = { text: "", shape: "", mounting: "" };
export const PAGE = 60;
const TYPING_MS = 200;

/** Profiles that fit the filters, asked anew when some were taken or pictured. */
export function useProfiles(slug: string, filters: Filters, offset: number) {
  const page = useServer(
    ["profiles", filters, offset],
    () => api.profiles({ ...filters, offset, limit: PAGE }),
    { told: true, afterMs: TYPING_MS },
  );
  const reload = useCallback(() => void queries.invalidateQueries({ queryKey: ["profiles"] }), []);

  useEffect(() => {
    const link = new LiveLink(slug, { catalogue: reload });
    return () => link.close();
  }, [slug, reload]);

  return { page, reload };
}
