import type { Occasion, Project, View } from "../api/client";
import { STEP_NAMES, STEPS, stateOf, type Step } from "./steps";
import { classesOf } from "../ui/classes";
import styles from "./Thread.module.css";

const cls = classesOf(styles);

interface Props {
  current: Step;
  choose: (step: Step) => void;
  changed: Set<Step>;
  project: Project;
  view: View;
  occasion: Occasion;
  altitude: number | null;
  undo: string | null;
  redo: string | null;
  onStep: (way: "undo" | "redo") => void;
  toggles: [string, string, boolean, () => void][];
}

/** The order of work: each step with its state in a few words, a lichen mark where it changed since the newest plate. */
export function Thread(props: Props) {
  return (
    <nav className={cls("thread")} aria-label="Work">
      <ol aria-label="Order of work">
        {STEPS.map((step) => (
          <li key={step}>
            <button
              className={cls(`step ${props.changed.has(step) ? "changed" : ""}`)}
              aria-current={props.current === step ? "step" : undefined}
              onClick={() => props.choose(step)}
            >
              {STEP_NAMES[step]}
              {props.changed.has(step) && <span className="visually-hidden"> (changed since the plate)</span>}
              <small>{stateOf(step, props.project, props.view, props.occasion, props.altitude)}</small>
            </button>
          </li>
        ))}
      </ol>
      <div className={cls("keys")}>
        <button
          disabled={!props.undo}
          title={props.undo ?? "Nothing to undo"}
          onClick={() => props.onStep("undo")}
        >
          Undo <kbd>Ctrl Z</kbd>
        </button>
        <button
          disabled={!props.redo}
          title={props.redo ?? "Nothing to redo"}
          onClick={() => props.onStep("redo")}
        >
          Redo <kbd>Ctrl Y</kbd>
        </button>
        {props.toggles.map(([name, key, on, act]) => (
          <button key={name} aria-pressed={on} onClick={act}>
            {name} {key && <kbd>{key}</kbd>}
          </button>
        ))}
      </div>
    </nav>
  );
}
