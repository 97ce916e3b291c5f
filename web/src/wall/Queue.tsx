import React, { useState } from "react";
import { ProgressBar } from "react-bootstrap";

import { api, type Plate, type Project } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { timeLeft } from "../ui/format";
import { classesOf } from "../ui/classes";
import { isUnderway } from "./useWall";
import styles from "./Queue.module.css";

const cls = classesOf(styles);
const DRAGGED = "application/x-valleylight-job";

interface Props {
  project: Project;
  plates: Plate[];
  stop: (job: number) => void;
  reload: () => void;
  /** Seconds that a plate of a quality takes. */
  expected: (quality: Plate["quality"]) => number;
  children: React.ReactNode;
}

/** Plates in the making: which, in which order, and when the last of them will be there. */
export function Queue({ project, plates, stop, reload, expected, children }: Props) {
  const [open, setOpen] = useState(false);
  const queue = plates.filter(isUnderway).sort((a, b) => inQueue(a) - inQueue(b));
  const given = React.Children.toArray(children).length > 0;
  if (queue.length === 0) return given ? <footer className={cls("wall-foot")}>{children}</footer> : null;
  const running = queue.find((p) => p.job?.status === "running");
  const waiting = queue.filter((p) => p !== running);
  const share = running ? (running.job?.samples_done ?? 0) / running.samples : 0;
  const left =
    (running ? (running.job?.seconds_left ?? expected(running.quality)) : 0) +
    waiting.reduce((all, p) => all + expected(p.quality), 0);
  const order = async (jobs: number[]) => {
    try {
      await api.orderJobs(jobs);
    } catch (error) {
      useStore.getState().notify((error as Error).message, "error");
    }
    reload();
  };
  const moved = (from: number, to: number) => {
    const jobs = waiting.map((p) => p.job!.id);
    jobs.splice(to, 0, ...jobs.splice(from, 1));
    void order(jobs);
  };
  const name = (p: Plate) =>
    [
      project.views?.find((v) => v.key === p.view)?.name ?? p.view,
      project.occasions?.find((o) => o.key === p.occasion)?.name ?? p.occasion,
    ].join(", ");
  return (
    <footer className={cls("wall-foot queue")}>
      {open && waiting.length > 0 && (
        <ol className={cls("queue-list")} aria-label="Plates that wait">
          {waiting.map((p, k) => (
            <li
              key={p.id}
              draggable
              onDragStart={(e) => e.dataTransfer.setData(DRAGGED, String(k))}
              onDragOver={(e) => e.dataTransfer.types.includes(DRAGGED) && e.preventDefault()}
              onDrop={(e) => {
                const from = e.dataTransfer.getData(DRAGGED);
                if (from === "") return;
                e.preventDefault();
                moved(Number(from), k);
              }}
            >
              <span>
                {name(p)}, {p.quality}
              </span>
              <button aria-label={`Earlier: ${name(p)}`} disabled={k === 0} onClick={() => moved(k, k - 1)}>
                ↑
              </button>
              <button
                aria-label={`Later: ${name(p)}`}
                disabled={k === waiting.length - 1}
                onClick={() => moved(k, k + 1)}
              >
                ↓
              </button>
              <button aria-label={`Stop: ${name(p)}`} onClick={() => stop(p.job!.id)}>
                Stop
              </button>
            </li>
          ))}
        </ol>
      )}
      <b>Making {queue.length === 1 ? "a plate" : `${queue.length} plates`}</b>
      <ProgressBar now={share * 100} aria-label="Progress of the plate in the making" />
      <span className="number">
        {running ? `this one: ${timeLeft(running.job?.seconds_left)} left` : "waiting for the renderer"}
        {waiting.length > 0 && `, all: about ${timeLeft(left)}`}
      </span>
      {running?.job?.message && <span className="quiet">{running.job.message}</span>}
      {waiting.length > 0 && (
        <Button variant="outline-dark" aria-expanded={open} onClick={() => setOpen(!open)}>
          Queue
        </Button>
      )}
      <Button variant="outline-dark" onClick={() => queue.forEach((p) => p.job && stop(p.job.id))}>
        {queue.length > 1 ? "Pause all" : "Stop"}
      </Button>
      {children}
    </footer>
  );
}

const inQueue = (p: Plate) => (p.job?.status === "running" ? -Infinity : (p.job?.rank ?? 0));
