import { useState } from "react";
import { ButtonGroup } from "react-bootstrap";
import { Link } from "react-router";

import { api, type PlateEstimate, type Quality } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { timeLeft } from "../ui/format";
import { classesOf } from "../ui/classes";
import styles from "./Queue.module.css";

const cls = classesOf(styles);
const QUALITIES: Quality[] = ["sketch", "proof", "press"];

export type CellKey = readonly [view: string, occasion: string];

interface Props {
  slug: string;
  /** In the order in which they were chosen: the first one's lens and look are what is copied. */
  chosen: readonly CellKey[];
  first: string;
  estimate: PlateEstimate | null;
  /** The newest plates of those that have one, in the same order. */
  plates: readonly number[];
  clear: () => void;
  made: () => void;
}

/** What can be done with cells of the wall that were chosen: plates of all of them, lens and look of the first for the others. */
export function CellActs({ slug, chosen, first, estimate, plates, clear, made }: Props) {
  const [quality, setQuality] = useState<Quality>("proof");
  const [busy, setBusy] = useState(false);
  const { notify, load, settle } = useStore();
  const cells = chosen.map(([view, occasion]) => ({ view, occasion }));
  const work = async (what: () => Promise<unknown>, told: string) => {
    setBusy(true);
    try {
      await settle();
      await what();
      await load(slug);
      notify(told);
      made();
    } catch (error) {
      notify((error as Error).message, "error");
    }
    setBusy(false);
  };
  const across = (lens: boolean, look: boolean) =>
    void work(
      () => api.across(slug, { source: cells[0], cells: cells.slice(1), lens, look }),
      `The ${lens ? "exposure" : "look"} of ${first} is that of ${cells.length - 1} others now.`,
    );
  return (
    <section className={cls("cell-acts")} aria-label="Chosen cells">
      <b>
        {chosen.length} {chosen.length === 1 ? "cell" : "cells"}
      </b>
      <ButtonGroup size="sm" aria-label="Quality of their plates">
        {QUALITIES.map((q) => (
          <Button
            key={q}
            variant={quality === q ? "dark" : "outline-dark"}
            aria-pressed={quality === q}
            onClick={() => setQuality(q)}
          >
            {q[0].toUpperCase() + q.slice(1)}
          </Button>
        ))}
      </ButtonGroup>
      <Button
        variant="dark"
        size="sm"
        disabled={busy}
        onClick={() =>
          void work(() => api.makeMany(slug, cells, quality), "They are in the queue.").then(clear)
        }
      >
        Make {chosen.length === 1 ? "the plate" : `${chosen.length} plates`}
        {estimate && `: about ${timeLeft(chosen.length * estimate[quality])}`}
      </Button>
      {chosen.length > 1 && (
        <>
          <span className="quiet">of {first} to the others:</span>
          <Button size="sm" variant="outline-dark" disabled={busy} onClick={() => across(true, false)}>
            Exposure
          </Button>
          <Button size="sm" variant="outline-dark" disabled={busy} onClick={() => across(false, true)}>
            Look
          </Button>
        </>
      )}
      {chosen.length === 1 && (
        <Link to={`/p/${slug}/sequences?view=${chosen[0][0]}&occasion=${chosen[0][1]}`}>Sequence of it</Link>
      )}
      {chosen.length === 2 && plates.length === 2 && (
        <Link to={`/p/${slug}/sequences?from=plates&first=${plates[0]}&second=${plates[1]}`}>
          Film of both plates
        </Link>
      )}
      <Button size="sm" variant="link" onClick={clear}>
        Choose none
      </Button>
    </section>
  );
}
