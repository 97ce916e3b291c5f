import { useCallback, useEffect } from "react";

import { api, type Plate, type Quality } from "../api/client";
import { type JobNews, LiveLink } from "../api/live";
import { queries, useServer } from "../state/server";
import { hearEdit, useStore } from "../state/store";

const NONE: Plate[] = [];

/** Plates of a project, kept up to date by the server's news. */
export function usePlates(slug: string) {
  const answer = useServer(["plates", slug], () => api.plates(slug), { told: true, keep: false });
  const plates = answer ?? NONE;
  const estimate = useServer(["estimate", slug], () => api.estimate(slug), { keep: false }) ?? null;
  const setPlates = useCallback(
    (next: (all: Plate[]) => Plate[]) =>
      queries.setQueryData<Plate[]>(["plates", slug], (all) => (all ? next(all) : all)),
    [slug],
  );
  const notify = useStore((s) => s.notify);
  const settle = useStore((s) => s.settle);

  const reload = useCallback(() => {
    void queries.invalidateQueries({ queryKey: ["plates", slug] });
    void queries.invalidateQueries({ queryKey: ["estimate", slug] });
  }, [slug]);

  const hear = useCallback(
    (news: JobNews) => {
      setPlates((all) =>
        all.map((p) =>
          p.id === news.plate
            ? {
                ...p,
                job: {
                  id: news.id,
                  rank: p.job?.rank ?? news.id,
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
    [notify, reload, setPlates],
  );

  /** A plate is made of what is seen: edits on their way come first. */
  const added = useCallback(
    async (work: () => Promise<Plate>): Promise<Plate | null> => {
      try {
        await settle();
        const plate = await work();
        setPlates((all) => [plate, ...all.filter((p) => p.id !== plate.id)]);
        reload();
        return plate;
      } catch (error) {
        notify((error as Error).message, "error");
        return null;
      }
    },
    [notify, reload, setPlates, settle],
  );
  const make = useCallback(
    (view: string, occasion: string, quality: Quality, when?: string) =>
      added(() => api.makePlate(slug, view, occasion, quality, when)),
    [slug, added],
  );
  const keepLive = useCallback(
    (view: string, occasion: string) => added(() => api.keepLive(slug, view, occasion)),
    [slug, added],
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
  return { plates, known: answer !== undefined, estimate, reload, hear, make, keepLive, stop, resume };
}

/** Listen to a project's news without asking for a picture. */
export function useNews(slug: string, hear: (news: JobNews) => void, reload: () => void) {
  useEffect(() => {
    const link = new LiveLink(slug, {
      job: hear,
      plates: reload,
      project: (news) => hearEdit(slug, news),
      connection: (state) => {
        if (state !== "open") return;
        reload();
        void useStore.getState().load(slug); // edits may have come before this listened
      },
    });
    return () => link.close();
  }, [slug, hear, reload]);
}

export const isUnderway = (plate: Plate) =>
  plate.job?.status === "running" || plate.job?.status === "waiting";
