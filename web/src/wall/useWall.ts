import { useCallback, useEffect, useRef, useState } from "react";

import { api, type Plate, type PlateEstimate, type Quality } from "../api/client";
import { type JobNews, LiveLink } from "../api/live";
import { useStore } from "../state/store";

/** Plates of a project, kept up to date by the server's news. */
export function usePlates(slug: string) {
  const [plates, setPlates] = useState<Plate[]>([]);
  const [estimate, setEstimate] = useState<PlateEstimate | null>(null);
  const notify = useStore((s) => s.notify);

  // An older answer may come after a newer one; only the last question counts.
  const asked = useRef(0);

  const reload = useCallback(() => {
    const turn = ++asked.current;
    api.plates(slug).then(
      (all) => turn === asked.current && setPlates(all),
      (error: Error) => notify(error.message, "error"),
    );
    api.estimate(slug).then(setEstimate, () => undefined);
  }, [slug, notify]);

  const hear = useCallback(
    (news: JobNews) => {
      setPlates((all) =>
        all.map((p) =>
          p.id === news.plate
            ? {
                ...p,
                job: {
                  id: news.id,
                  status: news.status,
                  samples_done: news.samples_done,
                  message: news.message,
                  seconds_spent: news.seconds_spent,
                  seconds_left: news.seconds_left,
                },
              }
            : p,
        ),
      );
      if (news.status === "failed") notify(news.message, "error");
      if (news.status !== "running") reload();
    },
    [notify, reload],
  );

  const make = useCallback(
    async (view: string, occasion: string, quality: Quality, when?: string): Promise<Plate | null> => {
      try {
        const plate = await api.makePlate(slug, view, occasion, quality, when);
        setPlates((all) => [plate, ...all.filter((p) => p.id !== plate.id)]);
        reload();
        return plate;
      } catch (error) {
        notify((error as Error).message, "error");
        return null;
      }
    },
    [slug, notify, reload],
  );

  const stop = useCallback(
    (job: number) => {
      api.stopJob(job).catch((error: Error) => notify(error.message, "error"));
    },
    [notify],
  );

  const resume = useCallback(
    (job: number) => {
      api.resumeJob(job).then(reload, (error: Error) => notify(error.message, "error"));
    },
    [notify, reload],
  );

  // An edit may have made plates differ from the project, or like it again.
  const revision = useStore((s) => s.saved?.revision);
  useEffect(reload, [reload, revision]);
  return { plates, estimate, reload, hear, make, stop, resume };
}

/** Listen to a project's news without asking for a picture. */
export function useNews(slug: string, hear: (news: JobNews) => void, reload: () => void) {
  const load = useStore((s) => s.load);
  useEffect(() => {
    const link = new LiveLink(slug, {
      job: hear,
      plates: reload,
      project: (revision) => {
        if (useStore.getState().saved?.revision !== revision) void load(slug);
      },
      connection: (state) => state === "open" && reload(),
    });
    return () => link.close();
  }, [slug, hear, reload, load]);
}

export const isUnderway = (plate: Plate) =>
  plate.job?.status === "running" || plate.job?.status === "waiting";
