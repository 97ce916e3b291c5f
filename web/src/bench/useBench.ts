import { useEffect, useMemo, useRef, useState } from "react";

import type { Change, Fixture, Lens, Look, Occasion, Project, View } from "../api/client";
import { type JobNews, type LiveHeader, LiveLink, type PictureMode } from "../api/live";
import { withChanges } from "../state/changes";
import { type Done, hearEdit, useStore } from "../state/store";

/** What instruments use to change things: a draft while dragging, a commit at the end. */
export interface Hands {
  occasion: (label: string, patch: Partial<Occasion>, done: Done) => void;
  view: (label: string, patch: Partial<View>, done: Done) => void;
  lens: (label: string, patch: Partial<Lens>, done: Done) => void;
  look: (label: string, look: Look, done: Done) => void;
  fixtures: (label: string, fixtures: Fixture[], done: Done) => void;
  changes: (label: string, changes: Change[], done: Done) => void;
}

/** What lies on the bench, for what acts on it. */
export interface AtBench {
  slug: string;
  view: string;
  occasion: string;
  project: Project | null;
  hands: Hands;
}

/** Bind edits to the view and occasion on the bench. */
export function useHands(viewKey: string, occasionKey: string): Hands {
  const { setDraft, commit, commitSoon, settled } = useStore();
  return useMemo(() => {
    const changes = (label: string, list: Change[], done: Done) => {
      if (done === "soon") commitSoon(label, list);
      else if (done) void commit(label, list);
      else setDraft(list);
    };
    const view = () => settled()?.views?.find((v) => v.key === viewKey);
    return {
      changes,
      occasion: (label, patch, done) =>
        changes(label, [{ part: "occasion", key: occasionKey, value: patch }], done),
      view: (label, patch, done) => changes(label, [{ part: "view", key: viewKey, value: patch }], done),
      lens: (label, patch, done) => {
        const now = view();
        if (!now) return;
        const lens = { ...(now.lens_at?.[occasionKey] ?? now.lens), ...patch };
        const value = { lens_at: { ...now.lens_at, [occasionKey]: lens } };
        changes(label, [{ part: "view", key: viewKey, value }], done);
      },
      look: (label, look, done) => changes(label, [{ part: "look", key: look.key, value: look }], done),
      fixtures: (label, fixtures, done) =>
        changes(
          label,
          fixtures.map((f) => ({ part: "fixture" as const, key: f.key, value: f })),
          done,
        ),
    };
  }, [viewKey, occasionKey, commit, commitSoon, setDraft, settled]);
}

export interface LivePicture {
  header: LiveHeader | null;
  url: string | null;
  error: string | null;
  connection: "open" | "lost" | "restarting";
  previews: Record<number, string>;
}

/** Keep the live picture of a view and occasion coming, following saved state and draft. */
export function useLive(
  slug: string,
  view: string,
  occasion: string,
  hear: (news: JobNews) => void,
  reload: () => void,
  mode: PictureMode,
  alone: string | null,
) {
  const [live, setLive] = useState<LivePicture>({
    header: null,
    url: null,
    error: null,
    connection: "open",
    previews: {},
  });
  const link = useRef<LiveLink | null>(null);
  const url = useRef<string | null>(null);
  const revision = useStore((s) => s.saved?.revision);
  const draft = useStore((s) => s.draft);
  const dragging = useStore((s) => s.dragging);

  useEffect(() => {
    const made = new LiveLink(slug, {
      picture: (header, image) => {
        const next = URL.createObjectURL(image);
        const old = url.current;
        url.current = next;
        setLive((was) => ({ ...was, header, url: next, error: null }));
        if (old) window.setTimeout(() => URL.revokeObjectURL(old), 1000);
      },
      job: hear,
      plates: reload,
      preview: (job, image) => setLive((was) => ({ ...was, previews: { ...was.previews, [job]: image } })),
      project: (news) => hearEdit(slug, news),
      fault: (detail) => setLive((was) => ({ ...was, error: detail })),
      refused: (detail) => setLive((was) => ({ ...was, error: detail })),
      away: () =>
        useStore
          .getState()
          .notify(
            "This project was put away elsewhere. It can be brought back from the projects page.",
            "error",
          ),
      connection: (connection) => {
        setLive((was) => ({ ...was, connection }));
        if (connection !== "open") return;
        reload();
        void useStore.getState().load(slug); // edits may have come before this listened
      },
    });
    link.current = made;
    return () => {
      made.close();
      if (url.current) URL.revokeObjectURL(url.current);
      url.current = null;
    };
  }, [slug, hear, reload]);

  useEffect(() => {
    if (revision !== undefined && view && occasion)
      link.current?.show({ view, occasion, draft, dragging, mode, alone });
  }, [view, occasion, draft, dragging, revision, slug, mode, alone]);

  return live;
}

/** The project as it would be with the draft saved. */
export function useProject(): Project | null {
  const saved = useStore((s) => s.saved);
  const draft = useStore((s) => s.draft);
  return useMemo(() => (saved ? withChanges(saved.description, draft) : null), [saved, draft]);
}
