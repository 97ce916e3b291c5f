/** The project as the browser holds it: what is saved, the draft being dragged, and notices. */
import { create } from "zustand";

import { api, type Change, hand, type Project, type ProjectState, Refusal } from "../api/client";
import { asFine, touchTheSame, withChanges } from "./changes";

export interface Notice {
  id: number;
  tone: "error" | "info";
  text: string;
  /** What can be done about it; each puts the notice away. */
  choices?: { label: string; act: () => void }[];
}

interface Store {
  saved: ProjectState | null;
  /** Steps on their way and what is dragged. */
  draft: Change[];
  /** Something is being dragged just now. */
  dragging: boolean;
  notices: Notice[];
  missing: string | null;
  /** The server does not answer; edits wait for it. */
  offline: boolean;
  load: (slug: string) => Promise<void>;
  setDraft: (changes: Change[]) => void;
  /** Save shortly, unless more of the same follows: one step of undo for a run of key presses. */
  commitSoon: (label: string, changes: Change[]) => void;
  commit: (label: string, changes: Change[]) => Promise<boolean>;
  step: (way: "undo" | "redo", force?: boolean) => Promise<void>;
  adopt: (state: ProjectState) => void;
  /** Wait until all that was edited is answered. */
  settle: () => Promise<void>;
  /** When the edits on their way will be answered; null when none is. What still waits for more of the same is left to wait. */
  answered: () => Promise<void> | null;
  /** The project with what is on its way, but without what is dragged. */
  settled: () => Project | null;
  /** The page is being left: send at once what waits. */
  leave: () => void;
  notify: (text: string, tone?: Notice["tone"], choices?: Notice["choices"]) => void;
  dismiss: (id: number) => void;
}

let notices = 0;
/** The newest revision that was told of. */
let heard = { slug: "", revision: 0 };

/** Whether a change is still being dragged, is done, or may be followed by more of the same. */
export type Done = boolean | "soon";
const SOON_MS = 450;
const RETRY_MS = 1000;
const SHOWN_MS = 8000;

interface Step {
  slug: string;
  label: string;
  changes: Change[];
  /** Revision on which it was made; null forces it over what others did. */
  base: number | null;
}

const pause = (ms: number) => new Promise((done) => window.setTimeout(done, ms));

export const useStore = create<Store>((set, get) => {
  const fail = (error: unknown) => {
    get().notify(
      error instanceof Refusal
        ? error.message
        : "Something went wrong in this page. Reload it; what was saved is kept.",
      "error",
    );
    if (!(error instanceof Refusal)) console.error(error);
  };
  /** Steps not yet answered by the server, oldest first, and what is dragged: together the draft. */
  let unanswered: Step[] = [];
  const sent = new Set<Step>();
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
  const onTheWay = (slug = get().saved?.slug) =>
    unanswered.filter((s) => s.slug === slug).flatMap((s) => s.changes);
  const redraft = (slug = get().saved?.slug) => {
    const draft = [...onTheWay(slug), ...dragged];
    const dragging = dragged.length > 0;
    return draft.length + get().draft.length === 0 ? { dragging } : { draft, dragging };
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
  const fine = (changes: Change[]): Change[] => {
    const project = get().settled();
    return project ? asFine(project, changes) : changes;
  };
  const begin = (label: string, changes: Change[], base = get().saved?.revision ?? null): Step => {
    const step = { slug: get().saved?.slug ?? "", label, changes, base };
    unanswered.push(step);
    dragged = [];
    set(redraft());
    return step;
  };
  /** Ask until the server answers at all; what it says of the request is the caller's. */
  const insist = async <T>(ask: () => Promise<T>): Promise<T> => {
    for (let again = false; ; again = true) {
      try {
        const answer = await ask();
        if (again) set({ offline: false });
        return answer;
      } catch (error) {
        if (!(error instanceof Refusal) || error.status !== 0) {
          if (again) set({ offline: false });
          throw error;
        }
        set({ offline: true });
        await pause(RETRY_MS);
      }
    }
  };
  /** Another hand was at the same field: both are offered. */
  const offerBoth = async (step: Step, refusal: Refusal) => {
    const { revision, label, now } = refusal.conflict!;
    await get().load(step.slug);
    const theirs = inShort(now[0]?.value);
    const mine = inShort(step.changes[0]?.value);
    const values =
      step.changes.length === 1 && theirs && mine ? ` It is ${theirs} now; yours was ${mine}.` : "";
    get().notify(`“${step.label}” was changed elsewhere too (${label}).${values}`, "error", [
      { label: "Keep theirs", act: () => undefined },
      {
        label: "Put mine instead",
        act: () => {
          const again = begin(step.label, step.changes, Math.max(revision, get().saved?.revision ?? 0));
          void inTurn(() => send(again));
        },
      },
    ]);
  };
  const send = async (step: Step | null): Promise<boolean> => {
    if (!step || sent.has(step)) return false;
    const answered = () => {
      unanswered = unanswered.filter((s) => s !== step);
      sent.delete(step);
    };
    try {
      if (!step.slug || step.changes.length === 0) return false;
      sent.add(step);
      const next = await insist(() => api.edit(step.slug, step.label, step.changes, step.base));
      answered();
      if (get().saved?.slug === step.slug) hold(next);
      return true;
    } catch (error) {
      answered();
      if (error instanceof Refusal && error.conflict) await offerBoth(step, error);
      else fail(error);
      return false;
    } finally {
      answered();
      set(redraft());
    }
  };
  return {
    saved: null,
    draft: [],
    dragging: false,
    notices: [],
    missing: null,
    offline: false,
    load: async (slug) => {
      wanted = slug;
      if (get().saved?.slug !== slug) dragged = [];
      try {
        const loaded = await insist(() => api.project(slug));
        if (wanted !== slug) return; // another project has been opened meanwhile
        hold(loaded);
        set({ missing: null });
        // An answer already on its way when an edit was told of does not hold it yet.
        if (heard.slug === slug && loaded.revision < heard.revision) await get().load(slug);
      } catch (error) {
        if (wanted !== slug) return;
        if (error instanceof Refusal && error.status === 404) set({ missing: error.message, saved: null });
        else fail(error);
      }
    },
    setDraft: (changes) => {
      dragged = fine(changes);
      set(redraft());
    },
    commit: (label, changes) => {
      const before = take();
      const step = begin(label, fine(changes));
      return inTurn(async () => {
        await send(before);
        return send(step);
      });
    },
    commitSoon: (label, changes) => {
      const before = take();
      const next = fine(changes);
      let base = get().saved?.revision ?? null;
      if (before && before.label === label && touchTheSame(before.changes, next)) {
        unanswered = unanswered.filter((s) => s !== before);
        base = before.base;
      } else if (before) void inTurn(() => send(before));
      waiting = begin(label, next, base);
      timer = window.setTimeout(() => {
        const step = take();
        void inTurn(() => send(step));
      }, SOON_MS);
    },
    step: (way, force = false) => {
      const before = take();
      return inTurn(async () => {
        await send(before);
        const saved = get().saved;
        if (!saved || !saved[way]) return;
        try {
          hold(await insist(() => api[way](saved.slug, force ? null : saved.revision)));
        } catch (error) {
          if (error instanceof Refusal && error.conflict) {
            await get().load(saved.slug);
            get().notify(`The last edit is another hand's: “${error.conflict.label}”.`, "error", [
              { label: "Leave it", act: () => undefined },
              {
                label: way === "undo" ? "Take it back" : "Do it again",
                act: () => void get().step(way, true),
              },
            ]);
          } else fail(error);
        }
      });
    },
    adopt: (state) => {
      dragged = [];
      hold(state);
    },
    settle: () => {
      const before = take();
      return inTurn(async () => void (await send(before)));
    },
    answered: () => (unanswered.some((s) => s !== waiting) ? inTurn(() => Promise.resolve()) : null),
    settled: () => {
      const saved = get().saved;
      return saved ? withChanges(saved.description, onTheWay()) : null;
    },
    leave: () => {
      take();
      // What was sent already arrives by itself; the rest goes as one, for single requests could overtake each other.
      const left = unanswered.filter((s) => !sent.has(s) && s.slug && s.changes.length > 0);
      for (const step of left) sent.add(step);
      for (const slug of new Set(left.map((s) => s.slug))) {
        const steps = left.filter((s) => s.slug === slug);
        const label = [...new Set(steps.map((s) => s.label))].join(", ").slice(0, 120);
        void api
          .edit(
            slug,
            label,
            steps.flatMap((s) => s.changes),
            steps[0].base,
          )
          .catch(() => undefined);
      }
    },
    notify: (text, tone = "info", choices) => {
      const id = ++notices;
      const others = get().notices.filter((n) => n.text !== text);
      set({ notices: [...others, { id, tone, text, choices }].slice(-4) });
      if (tone === "info" && !choices) window.setTimeout(() => get().dismiss(id), SHOWN_MS);
    },
    dismiss: (id) => set({ notices: get().notices.filter((n) => n.id !== id) }),
  };
});

window.addEventListener("pagehide", () => useStore.getState().leave());

/** News that the project has been edited: load it, and say so when it was another hand. */
export function hearEdit(slug: string, news: { revision: number; label?: string; hand?: string }): void {
  const store = useStore.getState();
  heard = { slug, revision: heard.slug === slug ? Math.max(heard.revision, news.revision) : news.revision };
  if (news.hand !== hand && news.label) store.notify(`Changed elsewhere: ${news.label}.`);
  if (store.saved && store.saved.slug === slug && store.saved.revision < news.revision) void store.load(slug);
}

function inShort(value: unknown): string {
  if (typeof value === "number") return String(Number(value.toPrecision(5)));
  return typeof value === "string" && value.length < 40 ? value.replace("T", " ") : "";
}
