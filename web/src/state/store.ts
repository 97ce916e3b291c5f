/** The project as the browser holds it: what is saved, the draft being dragged, and notices. */
import { create } from "zustand";

import { api, type Change, type Project, type ProjectState, Refusal } from "../api/client";

const PLURAL = {
  view: "views",
  occasion: "occasions",
  look: "looks",
  kind: "kinds",
  fixture: "fixtures",
  scene: "scenes",
} as const;

export interface Notice {
  id: number;
  tone: "error" | "info";
  text: string;
}

interface Store {
  saved: ProjectState | null;
  draft: Change[];
  notices: Notice[];
  missing: string | null;
  load: (slug: string) => Promise<void>;
  setDraft: (changes: Change[]) => void;
  /** Save shortly, unless more of the same follows: one step of undo for a run of key presses. */
  commitSoon: (label: string, changes: Change[]) => void;
  commit: (label: string, changes: Change[]) => Promise<boolean>;
  step: (way: "undo" | "redo") => Promise<void>;
  adopt: (state: ProjectState) => void;
  notify: (text: string, tone?: Notice["tone"]) => void;
  dismiss: (id: number) => void;
}

let notices = 0;

/** Whether a change is still being dragged, is done, or may be followed by more of the same. */
export type Done = boolean | "soon";
const SOON_MS = 450;

export const useStore = create<Store>((set, get) => {
  const fail = (error: unknown) => {
    get().notify(
      error instanceof Refusal ? error.message : `Something went wrong: ${String(error)}`,
      "error",
    );
  };
  type Step = { label: string; changes: Change[] };
  let waiting: Step | null = null;
  let timer: number | undefined;
  let queue: Promise<unknown> = Promise.resolve();
  /** One thing after the other, so that an undo never overtakes the edit before it. */
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const run = queue.then(work);
    queue = run.catch(() => undefined);
    return run;
  };
  const take = (): Step | null => {
    window.clearTimeout(timer);
    const step = waiting;
    waiting = null;
    return step;
  };
  const send = async (step: Step | null): Promise<boolean> => {
    const saved = get().saved;
    if (!step || !saved || step.changes.length === 0) return false;
    const settled = () => (get().draft === step.changes ? { draft: [] } : {});
    try {
      const next = await api.edit(saved.slug, step.label, step.changes);
      set({ saved: next, ...settled() });
      return true;
    } catch (error) {
      set(settled());
      fail(error);
      return false;
    }
  };
  return {
    saved: null,
    draft: [],
    notices: [],
    missing: null,
    load: async (slug) => {
      try {
        const saved = await api.project(slug);
        set({ saved, draft: [], missing: null });
      } catch (error) {
        if (error instanceof Refusal && error.status === 404) set({ missing: error.message, saved: null });
        else fail(error);
      }
    },
    setDraft: (draft) => set({ draft }),
    commit: (label, changes) => {
      const before = take();
      const step = { label, changes };
      set({ draft: changes });
      return inTurn(async () => {
        await send(before);
        return send(step);
      });
    },
    commitSoon: (label, changes) => {
      const before = take();
      if (before && before.label !== label) void inTurn(() => send(before));
      waiting = { label, changes };
      set({ draft: changes });
      timer = window.setTimeout(() => {
        const step = take();
        void inTurn(() => send(step));
      }, SOON_MS);
    },
    step: (way) => {
      const before = take();
      return inTurn(async () => {
        await send(before);
        const saved = get().saved;
        if (!saved || !saved[way]) return;
        try {
          set({ saved: await api[way](saved.slug), draft: [] });
        } catch (error) {
          fail(error);
        }
      });
    },
    adopt: (saved) => set({ saved, draft: [] }),
    notify: (text, tone = "info") => {
      const id = ++notices;
      set({ notices: [...get().notices.filter((n) => n.text !== text), { id, tone, text }].slice(-4) });
      if (tone === "info") window.setTimeout(() => get().dismiss(id), 6000);
    },
    dismiss: (id) => set({ notices: get().notices.filter((n) => n.id !== id) }),
  };
});

/** The description with changes applied, as the server would. */
export function withChanges(project: Project, changes: Change[]): Project {
  let result: Project = project;
  for (const change of changes) {
    if (change.part === "name" || change.part === "site" || change.part === "stage") {
      result = { ...result, [change.part]: change.value };
      continue;
    }
    const list = PLURAL[change.part];
    const items = result[list] as { key?: string }[];
    const index = items.findIndex((item) => item.key === change.key);
    let next: unknown[];
    if (change.value === null) next = items.filter((item) => item.key !== change.key);
    else if (index < 0) next = [...items, change.value];
    else next = items.map((item, k) => (k === index ? change.value : item));
    result = { ...result, [list]: next } as Project;
  }
  return result;
}
