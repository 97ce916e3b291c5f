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

/** Whether two steps change the same parts in the same way, so that the later stands for both. */
function sameThing(a: { label: string; changes: Change[] }, b: { label: string; changes: Change[] }) {
  const parts = (changes: Change[]) => changes.map((c) => `${c.part} ${c.key}`).join();
  return a.label === b.label && parts(a.changes) === parts(b.changes);
}

export const useStore = create<Store>((set, get) => {
  const fail = (error: unknown) => {
    get().notify(
      error instanceof Refusal ? error.message : `Something went wrong: ${String(error)}`,
      "error",
    );
  };
  type Step = { slug: string; label: string; changes: Change[] };
  /** Steps not yet answered by the server, oldest first, and what is dragged: together the draft. */
  let unanswered: Step[] = [];
  let dragged: Change[] = [];
  let wanted = "";
  let waiting: Step | null = null;
  let timer: number | undefined;
  let queue: Promise<unknown> = Promise.resolve();
  /** One thing after the other, so that an undo never overtakes the edit before it. */
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const run = queue.then(work);
    queue = run.catch(() => undefined);
    return run;
  };
  const redraft = (slug = get().saved?.slug) => {
    const steps = unanswered.filter((s) => s.slug === slug);
    const draft = [...steps.flatMap((s) => s.changes), ...dragged];
    return draft.length + get().draft.length === 0 ? {} : { draft };
  };
  /** An answer that was overtaken by a later one must not bring back what stood before. */
  const hold = (state: ProjectState) => {
    const held = get().saved;
    const overtaken = held?.slug === state.slug && held.revision > state.revision;
    set(overtaken ? redraft() : { saved: state, ...redraft(state.slug) });
  };
  const take = (): Step | null => {
    window.clearTimeout(timer);
    const step = waiting;
    waiting = null;
    return step;
  };
  const begin = (label: string, changes: Change[]): Step => {
    const step = { slug: get().saved?.slug ?? "", label, changes };
    unanswered.push(step);
    dragged = [];
    set(redraft());
    return step;
  };
  const send = async (step: Step | null): Promise<boolean> => {
    if (!step) return false;
    const answered = () => (unanswered = unanswered.filter((s) => s !== step));
    try {
      if (!step.slug || step.changes.length === 0) return false;
      const next = await api.edit(step.slug, step.label, step.changes);
      answered();
      if (get().saved?.slug === step.slug) hold(next);
      return true;
    } catch (error) {
      fail(error);
      return false;
    } finally {
      answered();
      set(redraft());
    }
  };
  return {
    saved: null,
    draft: [],
    notices: [],
    missing: null,
    load: async (slug) => {
      wanted = slug;
      if (get().saved?.slug !== slug) dragged = [];
      try {
        const loaded = await api.project(slug);
        if (wanted !== slug) return; // another project has been opened meanwhile
        hold(loaded);
        set({ missing: null });
      } catch (error) {
        if (wanted !== slug) return;
        if (error instanceof Refusal && error.status === 404) set({ missing: error.message, saved: null });
        else fail(error);
      }
    },
    setDraft: (changes) => {
      dragged = changes;
      set(redraft());
    },
    commit: (label, changes) => {
      const before = take();
      const step = begin(label, changes);
      return inTurn(async () => {
        await send(before);
        return send(step);
      });
    },
    commitSoon: (label, changes) => {
      const before = take();
      if (before && sameThing(before, { label, changes }))
        unanswered = unanswered.filter((s) => s !== before);
      else if (before) void inTurn(() => send(before));
      waiting = begin(label, changes);
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
          hold(await api[way](saved.slug));
        } catch (error) {
          fail(error);
        }
      });
    },
    adopt: (state) => {
      dragged = [];
      hold(state);
    },
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
