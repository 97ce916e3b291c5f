import { useCallback, useEffect, useRef, useState } from "react";

import {
  api,
  type CourseReading,
  type FilmOfPlates,
  type MetOnTheWay,
  type Run,
  type Sequence,
} from "../api/client";
import { LiveLink } from "../api/live";
import { queries, useAnswer, useModels, useServer } from "../state/server";
import { hearEdit, useStore } from "../state/store";

const NONE: Run[] = [];
const UNDERWAY = ["waiting", "running"];
export const isUnderway = (run: Run) => UNDERWAY.includes(run.status);

/** Sequences made and in the making, and what can be done with them. */
export function useRuns(slug: string) {
  const runs = useServer(["runs", slug], () => api.runs(slug), { told: true, keep: false }) ?? NONE;
  const { notify, settle } = useStore();
  const reload = useCallback(() => void queries.invalidateQueries({ queryKey: ["runs", slug] }), [slug]);
  /** Do something, with the edits on their way kept first. */
  const work = useCallback(
    async <T>(what: () => Promise<T>): Promise<T | null> => {
      try {
        await settle();
        const done = await what();
        reload();
        return done;
      } catch (error) {
        notify((error as Error).message, "error");
        return null;
      }
    },
    [notify, reload, settle],
  );
  const revision = useStore((s) => s.saved?.revision);
  useEffect(reload, [reload, revision]);
  return {
    runs,
    reload,
    make: (key: string, version: Run["version"]) => work(() => api.makeSequence(slug, key, version)),
    ofPlates: (film: FilmOfPlates) => work(() => api.makeFilm(slug, film)),
    stop: (run: number) => void work(() => api.stopRun(run)),
    resume: (run: number) => void work(() => api.resumeRun(run)),
    again: (run: number, frames: number[]) => void work(() => api.framesAgain(run, frames)),
    takeAway: (run: number) => void work(() => api.takeRunAway(run)),
  };
}
export type Runs = ReturnType<typeof useRuns>;

/** The course of a sequence as it is edited, or why it has none; and what its lens runs into. */
export function useCourse(
  slug: string,
  sequence: Sequence | null,
): { course?: CourseReading; refusal?: string; met?: MetOnTheWay[] } {
  const models = useModels();
  const { answer, refusal } = useAnswer(
    ["course", slug, sequence],
    () => (sequence ? api.course(slug, sequence) : Promise.reject(new Error(""))),
    { ready: sequence !== null },
  );
  const met = useServer(
    ["on-the-way", slug, models, sequence?.view, sequence?.stations],
    () => api.onTheWay(slug, sequence!),
    { ready: (sequence?.stations?.length ?? 0) > 1 && !refusal, afterMs: 500, keep: false },
  );
  return { course: refusal ? undefined : answer, refusal, met };
}

/** The live picture of a moment of a sequence, rough at once; nothing while there is no moment. */
export function useMoment(
  slug: string,
  sequence: Sequence | null,
  second: number,
  scrubbing: boolean,
  /** A sequence in the making is further on. */
  hear: () => void,
) {
  const [live, setLive] = useState<{ url: string | null; error: string | null }>({ url: null, error: null });
  const link = useRef<LiveLink | null>(null);
  const url = useRef<string | null>(null);
  const revision = useStore((s) => s.saved?.revision);
  const draft = useStore((s) => s.draft);
  const dragging = useStore((s) => s.dragging) || scrubbing;
  const shows = sequence !== null;
  const { key = "", view = "", occasion = "" } = sequence ?? {};

  useEffect(() => {
    const made = new LiveLink(slug, {
      picture: (_, image) => {
        const old = url.current;
        url.current = URL.createObjectURL(image);
        setLive({ url: url.current, error: null });
        if (old) window.setTimeout(() => URL.revokeObjectURL(old), 1000);
      },
      runs: hear,
      project: (told) => hearEdit(slug, told),
      fault: (error) => setLive((was) => ({ ...was, error })),
      refused: (error) => setLive((was) => ({ ...was, error })),
      connection: (state) => {
        if (state !== "open") return;
        hear();
        void useStore.getState().load(slug); // edits may have come before this listened
      },
    });
    link.current = made;
    return () => {
      made.close();
      if (url.current) URL.revokeObjectURL(url.current);
      url.current = null;
    };
  }, [slug, hear]);
  useEffect(() => {
    if (shows && revision !== undefined)
      link.current?.show({ view, occasion, draft, dragging, moment: { sequence: key, second } });
  }, [shows, key, view, occasion, second, draft, dragging, revision]);
  return live;
}
