import { useCallback, useEffect, useRef, useState } from "react";

import { api, type ProfilePage } from "../api/client";
import { LiveLink } from "../api/live";
import { useStore } from "../state/store";

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
  const [page, setPage] = useState<ProfilePage | null>(null);
  const [version, setVersion] = useState(0);
  const asked = useRef(0);
  const notify = useStore((s) => s.notify);
  const reload = useCallback(() => setVersion((v) => v + 1), []);

  useEffect(() => {
    const turn = ++asked.current;
    const wait = window.setTimeout(() => {
      api.profiles({ ...filters, offset, limit: PAGE }).then(
        (p) => turn === asked.current && setPage(p),
        (error: Error) => notify(error.message, "error"),
      );
    }, TYPING_MS);
    return () => window.clearTimeout(wait);
  }, [filters, offset, version, notify]);

  useEffect(() => {
    const link = new LiveLink(slug, { catalogue: reload });
    return () => link.close();
  }, [slug, reload]);

  return { page, reload };
}
