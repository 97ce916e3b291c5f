import { Form } from "react-bootstrap";

import type { Project, Sequence, Station } from "../api/client";
import type { Done } from "../state/store";
import { Button } from "../ui/Button";
import { hourText } from "../ui/format";
import { NumberField } from "../ui/NumberField";
import { readHour } from "../ui/reading";
import { Value } from "../ui/Value";
import { classesOf } from "../ui/classes";
import { DriftDial } from "./DriftDial";
import styles from "./sequence.module.css";

const cls = classesOf(styles);

interface Props {
  project: Project;
  sequence: Sequence;
  station: number | null;
  change: (label: string, patch: Partial<Sequence>, done: Done) => void;
}

/** How long, how fast, how large; what changes beside the lens. */
export function Settings({ project, sequence, station, change }: Props) {
  const seconds = sequence.seconds ?? 6;
  const scenes = project.scenes ?? [];
  const cues = sequence.cues ?? [];
  const chosen = station === null ? undefined : sequence.stations?.[station];
  const put = (patch: Partial<Station>, label: string, done: Done) =>
    change(
      label,
      { stations: (sequence.stations ?? []).map((s, k) => (k === station ? { ...s, ...patch } : s)) },
      done,
    );
  return (
    <div className={cls("settings")}>
      {chosen && (
        <fieldset>
          <legend>Station {station! + 1}</legend>
          <Value
            label="Height"
            value={chosen.position[2]}
            min={chosen.position[2] - 5}
            max={chosen.position[2] + 5}
            step={0.05}
            unit="m"
            onChange={(z, done) =>
              put(
                {
                  position: [chosen.position[0], chosen.position[1], z],
                  target: [chosen.target[0], chosen.target[1], chosen.target[2] + z - chosen.position[2]],
                },
                "Raise a station",
                done,
              )
            }
          />
          <Value
            label="Looks at"
            name="Height of what it looks at"
            value={chosen.target[2]}
            min={chosen.position[2] - 20}
            max={chosen.position[2] + 40}
            step={0.05}
            unit="m"
            onChange={(z, done) =>
              put({ target: [chosen.target[0], chosen.target[1], z] }, "Turn a station", done)
            }
          />
          <Value
            label="Focal length"
            value={chosen.focal_mm ?? 24}
            min={8}
            max={200}
            step={1}
            unit="mm"
            log
            onChange={(focal_mm, done) => put({ focal_mm }, "Focal length", done)}
          />
          <Value
            label="Rests"
            name="Rests here for"
            value={chosen.rest_s ?? 0}
            min={0}
            max={Math.max(seconds - 0.5, 0)}
            step={0.1}
            unit="s"
            onChange={(rest_s, done) => put({ rest_s }, "Rest at a station", done)}
          />
        </fieldset>
      )}
      <Value
        label="Lasts"
        value={seconds}
        min={0.5}
        max={60}
        step={0.5}
        unit="s"
        log
        onChange={(v, done) => change("Length of sequence", { seconds: v }, done)}
      />
      <Value
        label="Ease"
        name="Share of a way over which speed is gathered"
        value={Math.round((sequence.ease ?? 0.25) * 100)}
        min={0}
        max={50}
        step={1}
        unit="%"
        onChange={(v, done) => change("Ease", { ease: v / 100 }, done)}
      />
      <Value
        label="Shutter"
        name="Shutter, of 360 degrees"
        value={sequence.shutter_deg ?? 180}
        min={0}
        max={360}
        step={5}
        unit="°"
        onChange={(v, done) => change("Shutter", { shutter_deg: v }, done)}
      />
      {(sequence.hours || sequence.days) && (
        <Value
          label="Exposure follows"
          name="Share of the change of daylight that the exposure follows"
          value={Math.round((sequence.follows ?? 0) * 100)}
          min={0}
          max={100}
          step={5}
          unit="%"
          onChange={(v, done) => change("Exposure follows", { follows: v / 100 }, done)}
        />
      )}
      <div className={cls("pairs")}>
        <label>
          Frames in a second
          <NumberField
            label="Frames in a second"
            value={sequence.rate ?? 24}
            min={1}
            max={60}
            onChange={(v) => v && change("Rate", { rate: Math.round(v) }, true)}
          />
        </label>
        <label>
          Pixels across
          <NumberField
            label="Pixels across"
            value={sequence.width ?? 1280}
            min={160}
            max={3840}
            step={160}
            onChange={(v) => v && change("Size", { width: Math.round(v) }, true)}
          />
        </label>
        <label>
          Final quality
          <Form.Select
            size="sm"
            aria-label="Final quality"
            value={sequence.quality ?? "proof"}
            onChange={(e) => change("Quality", { quality: e.target.value as Sequence["quality"] }, true)}
          >
            {["sketch", "proof", "press"].map((q) => (
              <option key={q}>{q}</option>
            ))}
          </Form.Select>
        </label>
        <label>
          At
          <Form.Select
            size="sm"
            aria-label="Occasion"
            value={sequence.occasion}
            onChange={(e) => change("Occasion of sequence", { occasion: e.target.value }, true)}
          >
            {(project.occasions ?? []).map((o) => (
              <option key={o.key} value={o.key}>
                {o.name}
              </option>
            ))}
          </Form.Select>
        </label>
      </div>
      <Changing
        label="The sun moves"
        on={sequence.hours != null}
        turn={(on) => change(on ? "Moving sun" : "Sun stands", { hours: on ? [6, 20] : null }, true)}
      >
        {sequence.hours && (
          <Pair
            label="hour"
            values={sequence.hours.map(hourText) as [string, string]}
            read={readHour}
            put={(k, v) =>
              change(
                "Hours of sequence",
                { hours: sequence.hours!.map((h, n) => (n === k ? v : h)) as [number, number] },
                true,
              )
            }
          />
        )}
      </Changing>
      <Changing
        label="The day moves"
        on={sequence.days != null}
        turn={(on) => {
          const year =
            project.occasions?.find((o) => o.key === sequence.occasion)?.when.slice(0, 4) ?? "2026";
          change(
            on ? "Moving day" : "Day stands",
            { days: on ? [`${year}-03-01`, `${year}-11-30`] : null },
            true,
          );
        }}
      >
        {sequence.days && (
          <span className={cls("ends")}>
            {sequence.days.map((day, k) => (
              <input
                key={k}
                type="date"
                className="form-control form-control-sm"
                aria-label={k ? "Last day" : "First day"}
                value={day}
                onChange={(e) =>
                  e.target.value &&
                  change(
                    "Days of sequence",
                    {
                      days: sequence.days!.map((d, n) => (n === k ? e.target.value : d)) as [string, string],
                    },
                    true,
                  )
                }
              />
            ))}
          </span>
        )}
      </Changing>
      {(project.occasions?.find((o) => o.key === sequence.occasion)?.sky?.clouds?.layers?.length ?? 0) >
        0 && <DriftDial drift={sequence.drift_m ?? [0, 0]} change={change} />}
      {scenes.length > 0 && (
        <Changing
          label="The lamps change"
          on={cues.length > 0}
          turn={(on) =>
            change(
              on ? "Changing lamps" : "Lamps stand",
              {
                cues: on
                  ? [
                      { at: 0.1, scene: scenes[0].key },
                      { at: 0.9, scene: scenes[Math.min(1, scenes.length - 1)].key },
                    ]
                  : [],
              },
              true,
            )
          }
        >
          {cues.map((cue, k) => (
            <span key={k} className={cls("ends")}>
              <Form.Select
                size="sm"
                aria-label={`Scene at ${(cue.at * seconds).toFixed(1)} s`}
                value={cue.scene}
                onChange={(e) =>
                  change(
                    "Scene of light",
                    { cues: cues.map((c, n) => (n === k ? { ...c, scene: e.target.value } : c)) },
                    true,
                  )
                }
              >
                {scenes.map((s) => (
                  <option key={s.key} value={s.key}>
                    {s.name}
                  </option>
                ))}
              </Form.Select>
              <span className="number">{(cue.at * seconds).toFixed(1)} s</span>
            </span>
          ))}
          {cues.length > 0 && (
            <Button
              size="sm"
              variant="outline-dark"
              onClick={() =>
                change("Add scene of light", { cues: [...cues, { at: 1, scene: scenes[0].key }] }, true)
              }
            >
              Add scene
            </Button>
          )}
        </Changing>
      )}
    </div>
  );
}

function Changing({
  label,
  on,
  turn,
  children,
}: {
  label: string;
  on: boolean;
  turn: (on: boolean) => void;
  children?: React.ReactNode;
}) {
  return (
    <div className={cls("changing")}>
      <Form.Check
        type="checkbox"
        id={`changing-${label}`}
        label={label}
        checked={on}
        onChange={(e) => turn(e.target.checked)}
      />
      {children}
    </div>
  );
}

function Pair({
  label,
  values,
  read,
  put,
}: {
  label: string;
  values: [string, string];
  read: (text: string) => number | null;
  put: (k: number, value: number) => void;
}) {
  return (
    <span className={cls("ends")}>
      {values.map((v, k) => (
        <input
          key={`${k} ${v}`}
          type="text"
          className="form-control form-control-sm number"
          aria-label={k ? `Last ${label}` : `First ${label}`}
          defaultValue={v}
          onBlur={(e) => {
            const found = read(e.target.value);
            if (found === null) e.target.value = v;
            else if (e.target.value !== v) put(k, found);
          }}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        />
      ))}
    </span>
  );
}
