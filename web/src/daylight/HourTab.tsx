import { useState } from "react";
import { Form, Spinner } from "react-bootstrap";

import {
  api,
  type HourAnswer,
  type Occasion,
  Refusal,
  type SunByHand,
  type SunHoursOfDay,
  type View,
} from "../api/client";
import type { Hands } from "../bench/useBench";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { dayText, hourText } from "../ui/format";
import { Value } from "../ui/Value";
import { HeatMap } from "./HeatMap";
import type { Faces } from "./useFaces";
import { PatientImage } from "../ui/PatientImage";
import { classesOf } from "../ui/classes";
import styles from "./HourTab.module.css";
import roomStyles from "./daylight.module.css";

const cls = classesOf(styles, roomStyles);

interface Props {
  slug: string;
  view: View;
  occasion: Occasion;
  hands: Hands;
  faces: Faces;
  makeSeries: (hours: string[]) => void;
}

const SIDES = ["left", "right", "from behind", "against the lens"];
const SERIES = [6, 8, 10, 12, 14, 16, 18, 20];

/** Which hour: faces to be lit and faces in shade, the hours of the year that do it, and hours of sun. */
export function HourTab({ slug, view, occasion, hands, faces, makeSeries }: Props) {
  const [answer, setAnswer] = useState<HourAnswer | null>(null);
  const [study, setStudy] = useState<SunHoursOfDay[] | null>(null);
  const [hand, setHand] = useState<SunByHand | null>(null);
  const [side, setSide] = useState("left");
  const [shadow, setShadow] = useState(2.5);
  const [busy, setBusy] = useState(false);
  const notify = useStore((s) => s.notify);
  const year = Number(occasion.when.slice(0, 4));
  const sun = occasion.sun ?? {};

  const ask = async <T,>(work: Promise<T>, keep: (value: T) => void) => {
    setBusy(true);
    try {
      keep(await work);
    } catch (error) {
      notify(error instanceof Refusal ? error.message : String(error), "error");
    } finally {
      setBusy(false);
    }
  };
  const take = (when: string) =>
    hands.occasion("Hour found", { when: when.slice(0, 19), sun: { ...sun, true_to_place: true } }, true);
  const glimpse = (when: string, cloudless = false) =>
    api.glimpse(slug, view.key, occasion.key, when, cloudless);

  return (
    <>
      <p className="lead">Name the faces to be in sun and those in shade.</p>
      <div className="d-flex gap-2 mb-2">
        {(["lit", "shade"] as const).map((as) => (
          <Button
            key={as}
            size="sm"
            variant={faces.picking === as ? "dark" : "outline-dark"}
            aria-pressed={faces.picking === as}
            onClick={() => faces.pick(faces.picking === as ? null : as)}
          >
            {as === "lit" ? "Point at sun" : "Point at shade"}
          </Button>
        ))}
      </div>
      {faces.list.length === 0 ? (
        <p className="quiet">
          Choose one of the two, then click walls or floor in the picture. “Point at sun” names what should be
          lit.
        </p>
      ) : (
        <ol className={cls("faces")}>
          {faces.list.map((face, k) => (
            <li key={k}>
              <button
                className="mark"
                aria-label={`${face.name}: in ${face.lit ? "sun" : "shade"}, change`}
                style={{ background: face.lit ? "var(--ember)" : "var(--ink)" }}
                onClick={() => faces.set(faces.list.map((f, n) => (n === k ? { ...f, lit: !f.lit } : f)))}
              >
                {face.lit ? "sun" : "shade"}
              </button>
              <span title={face.name}>{face.name}</span>
              <button
                className={cls("plain")}
                aria-label={`Remove ${face.name}`}
                onClick={() => faces.set(faces.list.filter((_, n) => n !== k))}
              >
                ×
              </button>
            </li>
          ))}
        </ol>
      )}
      {faces.list.length > 0 && (
        <Value
          label="Reach"
          value={faces.reach}
          min={0.1}
          max={20}
          step={0.1}
          unit="m"
          log
          onChange={(v) => faces.setReach(v)}
        />
      )}
      <div className="d-flex gap-2 mb-2 align-items-center">
        <Button
          size="sm"
          variant="dark"
          disabled={!faces.list.length || busy}
          onClick={() =>
            void ask(api.findHours(slug, { occasion: occasion.key, faces: faces.list, year }), setAnswer)
          }
        >
          Find the hours
        </Button>
        <Button
          size="sm"
          variant="outline-dark"
          disabled={!faces.list.length || busy}
          onClick={() =>
            void ask(
              api.sunHours(slug, {
                occasion: occasion.key,
                faces: faces.list,
                days: [`${year}-03-21`, `${year}-06-21`, `${year}-12-21`, occasion.when.slice(0, 10)],
              }),
              setStudy,
            )
          }
        >
          Hours of sun
        </Button>
        {busy && <Spinner size="sm" role="status" aria-label="Working it out" />}
      </div>
      {answer && (
        <>
          <HeatMap answer={answer} when={occasion.when} choose={take} />
          {answer.windows.length === 0 ? (
            <p>At no hour of the year. Take a face away, or let one be partly lit.</p>
          ) : (
            <div className={cls("windows")} aria-label="Best hours" title="Pictures without clouds">
              {answer.windows.map((w) => (
                <button key={w.best} onClick={() => take(w.best)}>
                  <PatientImage src={glimpse(w.best, true)} alt="" width={96} height={54} />
                  <span>
                    <b>
                      {dayText(w.best)}, {w.best.slice(11, 16)}
                    </b>
                    <span className="number quiet">
                      {Math.round(w.score * 100)} %, sun {w.altitude_deg.toFixed(0)}° up
                      <br />
                      {dayText(w.first_day)} to {dayText(w.last_day)}
                    </span>
                  </span>
                </button>
              ))}
            </div>
          )}
        </>
      )}
      {study && (
        <table className={cls("number study")}>
          <thead>
            <tr>
              <th scope="col">hours of sun</th>
              {study.map((d) => (
                <th scope="col" key={d.day}>
                  {dayText(d.day)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {faces.list.slice(0, study[0]?.hours.length).map((face, k) => (
              <tr key={k}>
                <th scope="row" title={face.name}>
                  {k + 1}
                </th>
                {study.map((d) => (
                  <td
                    key={d.day}
                    title={d.stretches[k]?.map(([a, b]) => `${hourText(a)} to ${hourText(b)}`).join(", ")}
                  >
                    {d.hours[k]?.toFixed(1)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <hr />
      <h3>By direction alone</h3>
      <div className={cls("by-direction")}>
        <Form.Select
          size="sm"
          aria-label="Side from which the sun comes"
          value={side}
          onChange={(e) => setSide(e.target.value)}
        >
          {SIDES.map((s) => (
            <option key={s} value={s}>
              {s === "left" || s === "right" ? `from the ${s}` : s}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          aria-label="Length of shadow over height"
          value={shadow}
          onChange={(e) => setShadow(Number(e.target.value))}
        >
          {[0.5, 1, 1.5, 2.5, 4, 7].map((s) => (
            <option key={s} value={s}>
              shadow {s} ×
            </option>
          ))}
        </Form.Select>
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() =>
            void ask(api.sunByHand(slug, view.key, side, shadow, year), (found) => {
              setHand(found);
              hands.occasion(
                "Sun by hand",
                {
                  sun: {
                    ...sun,
                    true_to_place: false,
                    azimuth_deg: Number(found.azimuth_deg.toFixed(1)),
                    altitude_deg: Number(found.altitude_deg.toFixed(1)),
                  },
                },
                true,
              );
            })
          }
        >
          Set
        </Button>
      </div>
      {hand && (
        <p className="quiet">
          Set by hand. The true sun comes within {hand.misses_by_deg.toFixed(0)}° of it on{" "}
          {dayText(hand.nearest)} at {hand.nearest.slice(11, 16)}.{" "}
          <button className={cls("plain underlined")} onClick={() => take(hand.nearest)}>
            Take that hour
          </button>
        </p>
      )}
      <hr />
      <h3>A moving sun</h3>
      <p className="quiet mb-1">The same view over the day, as it would be; a click takes the hour.</p>
      <div className={cls("strip-of-hours")}>
        {SERIES.map((h) => {
          const when = `${occasion.when.slice(0, 10)}T${String(h).padStart(2, "0")}:00:00`;
          return (
            <button key={h} onClick={() => take(when)} aria-label={`Take ${h} o'clock`}>
              <PatientImage key={`${when}${view.key}`} src={glimpse(when)} alt={`At ${h} o'clock`} />
              <span className="number">{h}</span>
            </button>
          );
        })}
      </div>
      <Button
        size="sm"
        variant="outline-dark"
        onClick={() =>
          makeSeries(SERIES.map((h) => `${occasion.when.slice(0, 10)}T${String(h).padStart(2, "0")}:00:00`))
        }
      >
        Make plates of these hours
      </Button>
    </>
  );
}
