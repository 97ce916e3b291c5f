import { useState } from "react";
import { Dropdown, ProgressBar } from "react-bootstrap";

import { api, type CourseReading, type FilmForm, type Run, type Sequence } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { clockText, timeLeft } from "../ui/format";
import { classesOf } from "../ui/classes";
import { isUnderway, type Runs } from "./useSequences";
import styles from "./sequence.module.css";

const cls = classesOf(styles);
const FORMS: [FilmForm, string][] = [
  ["mp4", "Film, MP4 (H.264)"],
  ["webm", "Film, WebM (AV1)"],
  ["webp", "Small film for mail (WebP)"],
  ["png", "Frames, PNG in a zip"],
  ["exr", "Linear frames, EXR in a zip"],
];

interface Props {
  runs: Runs;
  all: Run[];
  run: Run | null;
  show: (run: number) => void;
  sequence?: Sequence;
  course?: CourseReading;
}

/** Versions made and in the making: progress, stop and go on, films to take away. */
export function Making({ runs, all, run, show, sequence, course }: Props) {
  const [busy, setBusy] = useState<number | null>(null);
  const notify = useStore((s) => s.notify);
  const save = async (of: Run, form: FilmForm) => {
    setBusy(of.id);
    try {
      const made = await api.film(of.id, form);
      const link = document.createElement("a");
      [link.href, link.download] = [made.url, made.name];
      link.click();
      notify(`${made.name}: ${made.frames} frames, ${(made.bytes / 1e6).toFixed(1)} MB.`);
    } catch (error) {
      notify((error as Error).message, "error");
    }
    setBusy(null);
  };
  const make = (version: Run["version"]) => {
    if (sequence) void runs.make(sequence.key, version).then((made) => made && show(made.id));
  };
  return (
    <section className={cls("making")} aria-label="Versions">
      {sequence && (
        <div className={cls("acts")}>
          <Button
            size="sm"
            variant="dark"
            onClick={() => make("quick")}
            title="A sketch of every second frame"
          >
            Make the quick version{course && `: about ${timeLeft(course.quick_s)}`}
          </Button>
          <Button size="sm" variant="outline-dark" onClick={() => make("final")}>
            Final: {course ? `${course.frames} frames, about ${timeLeft(course.final_s)}` : "all frames"}
          </Button>
        </div>
      )}
      {all.map((r) => (
        <div key={r.id} className={cls(`version ${r.id === run?.id ? "shown" : ""}`)}>
          <button className={cls("pick")} aria-pressed={r.id === run?.id} onClick={() => show(r.id)}>
            {r.kind === "traced" ? r.version : r.name}, {r.width} × {r.height},{" "}
            <span className="number">{clockText(r.created)}</span>
          </button>
          <span className="number">
            {r.made.length} of {r.numbers.length}
            {r.status === "running" && `, ${timeLeft(r.seconds_left)}`}
            {r.status === "waiting" && ", waiting"}
            {r.status === "stopped" && ", stopped"}
          </span>
          {isUnderway(r) && (
            <ProgressBar
              now={(r.made.length / r.numbers.length) * 100}
              aria-label={`Progress of ${r.name}`}
            />
          )}
          {r.status === "failed" && <p className="error-text">{r.message}</p>}
          <div className={cls("acts")}>
            {isUnderway(r) ? (
              <Button size="sm" variant="outline-dark" onClick={() => runs.stop(r.id)}>
                Stop
              </Button>
            ) : (
              <>
                {r.made.length < r.numbers.length && (
                  <Button size="sm" variant="outline-dark" onClick={() => runs.resume(r.id)}>
                    Go on
                  </Button>
                )}
                <Button size="sm" variant="outline-dark" onClick={() => runs.takeAway(r.id)}>
                  Take away
                </Button>
              </>
            )}
            <Dropdown>
              <Dropdown.Toggle
                size="sm"
                variant="outline-dark"
                disabled={r.made.length === 0 || busy === r.id}
                aria-label={`Save ${r.name} as`}
              >
                {busy === r.id ? "Writing…" : "Save as"}
              </Dropdown.Toggle>
              <Dropdown.Menu renderOnMount={false} popperConfig={{ strategy: "fixed" }}>
                {FORMS.filter(([form]) => r.kind === "traced" || form !== "exr").map(([form, label]) => (
                  <Dropdown.Item as="button" key={form} onClick={() => void save(r, form)}>
                    {label}
                  </Dropdown.Item>
                ))}
              </Dropdown.Menu>
            </Dropdown>
          </div>
        </div>
      ))}
    </section>
  );
}
