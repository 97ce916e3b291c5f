import { useMemo, useState } from "react";
import { Form, Modal } from "react-bootstrap";

import { api, type Arrival, type ArrivalChoices } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { countText } from "../ui/format";
import { NumberField } from "../ui/NumberField";
import styles from "./arrival.module.css";
import { useArrivals } from "./arrivals";
import { Readings } from "./Readings";
import { Drawing } from "./Drawing";
import { NorthDial } from "./NorthDial";
import { Offered } from "./Offered";
import { type Box, lengthText, projection } from "./projected";

const cls = classesOf(styles);

/** The sheet of the model that has waited longest, if any does. */
export function ArrivalSheets() {
  const first = useArrivals((s) => s.arrivals[0]);
  return (
    <>
      <Readings />
      {first && <ArrivalSheet key={first.arrival.key} slug={first.slug} arrival={first.arrival} />}
    </>
  );
}

/** How a model is taken at one click. */
export function proposal({ sheet, replaces }: Arrival): ArrivalChoices {
  return {
    metres: sheet.unit.metres,
    up: sheet.up.up,
    turn_deg: 0,
    to_middle: sheet.far !== null,
    as_before: replaces !== null,
    north_deg: null,
    site: false,
    cameras: [],
    lights: [],
    renamed: Object.fromEntries(
      (sheet.compared?.lost ?? []).filter((m) => m.likely).map((m) => [m.name, m.likely!]),
    ),
  };
}

/** What was read of a model, drawn beside things of known size, before it is put on the stage; every guess may be overruled. */
export function ArrivalSheet({ slug, arrival }: { slug: string; arrival: Arrival }) {
  const { sheet } = arrival;
  const { adopt, notify, settle, saved } = useStore();
  const done = useArrivals((s) => s.done);
  const [choices, setChoices] = useState(() => proposal(arrival));
  const [box, setBox] = useState<Box | null>(null);
  const [busy, setBusy] = useState(false);
  const [refusal, setRefusal] = useState<string | null>(null);
  const choose = (some: Partial<ArrivalChoices>) => setChoices({ ...choices, ...some });
  const { metres, up, turn_deg: turn } = choices;
  const shown = useMemo(
    () => projection(sheet, arrival.axes[up ?? "z"]!, metres, turn ?? 0),
    [sheet, arrival, up, metres, turn],
  );
  const unit = arrival.units.find(([, m]) => Math.abs(m / metres - 1) < 1e-9)?.[0];
  const north = choices.north_deg ?? saved?.description.site?.north_deg ?? 0;
  const take = async () => {
    setBusy(true);
    try {
      await settle();
      adopt(await api.takeArrival(slug, arrival.key, choices));
      notify(`${sheet.name} stands on the stage.`);
      done();
    } catch (error) {
      setRefusal((error as Error).message);
      setBusy(false);
    }
  };
  return (
    <Modal
      show
      fullscreen
      onHide={done}
      aria-labelledby="arrival-title"
      className={cls("sheet")}
      animation={false}
    >
      <Modal.Header closeButton closeLabel="Close">
        <Modal.Title as="h2" id="arrival-title" className="named">
          {sheet.name}
        </Modal.Title>
        <span className="quiet number">
          {sheet.objects} {sheet.objects === 1 ? "object" : "objects"}, {countText(sheet.triangles)}{" "}
          triangles, about {Math.max(1, Math.round(sheet.memory_bytes / 2 ** 20))} MB in memory; nothing is
          changed yet
        </span>
      </Modal.Header>
      <Modal.Body className={cls("body")}>
        <div className={cls("paper")}>
          <Drawing sheet={sheet} shown={shown} from="above" box={box} />
          <NorthDial north={north} set={(deg) => choose({ north_deg: deg })} />
          <Drawing sheet={sheet} shown={shown} from="south" box={box} />
          <p className={cls("measures number")}>
            {shown.size.map(lengthText).join(" × ")}
            <span className="quiet"> beside someone of 1.70 m, a door of 2.10 m and a storey of 3 m</span>
          </p>
        </div>
        <div className={cls("words")}>
          <h3>Unit of the file</h3>
          <div role="radiogroup" aria-label="Unit of the file" className={cls("choice")}>
            {arrival.units.map(([name, m]) => (
              <button
                key={name}
                role="radio"
                aria-checked={unit === name}
                className={cls("pick")}
                onClick={() => choose({ metres: m })}
              >
                {name}
              </button>
            ))}
            <NumberField
              label="Metres of one unit of the file"
              value={metres}
              min={1e-6}
              max={1e6}
              step={0.001}
              onChange={(v) => v && choose({ metres: v })}
            />
          </div>
          <Reason doubtful={sheet.unit.doubtful}>{sheet.unit.reason}</Reason>
          <h3>Axis that points up, as it was read</h3>
          <div role="radiogroup" aria-label="Axis that points up" className={cls("choice")}>
            {(["z", "y", "x", "-z", "-y", "-x"] as const).map((axis) => (
              <button
                key={axis}
                role="radio"
                aria-checked={up === axis}
                className={cls("pick number")}
                onClick={() => choose({ up: axis })}
              >
                {axis.replace("-", "−")}
              </button>
            ))}
            <span className={cls("turned")}>
              turned by
              <NumberField
                label="Turn of the model in degrees, anticlockwise from above"
                unit="°"
                value={turn ?? 0}
                min={-360}
                max={360}
                onChange={(v) => choose({ turn_deg: v ?? 0 })}
              />
              °
            </span>
          </div>
          <Reason doubtful={sheet.up.doubtful}>{sheet.up.reason}</Reason>
          {sheet.far && (
            <Form.Check
              id="arrival-middle"
              checked={choices.to_middle}
              onChange={(e) => choose({ to_middle: e.target.checked })}
              label={`Take it to the middle: it stands at ${sheet.far.map((v) => Math.round(v * metres)).join(", ")} m, as surveys have it; that is kept as its place.`}
            />
          )}
          <Offered arrival={arrival} choices={choices} choose={choose} />
          <Doubts sheet={sheet} box={box} setBox={setBox} />
        </div>
      </Modal.Body>
      <Modal.Footer>
        {refusal && (
          <p role="alert" className="error-text m-0 me-auto">
            {refusal}
          </p>
        )}
        <Button variant="outline-dark" onClick={done}>
          Leave it
        </Button>
        <Button variant="dark" disabled={busy} onClick={() => void take()} autoFocus>
          {busy
            ? "Setting it up…"
            : arrival.replaces
              ? "Put it in place of the old one"
              : "Put it on the stage"}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}

function Reason({ doubtful, children }: { doubtful: boolean; children: string }) {
  return <p className={cls(doubtful ? "reason doubtful" : "reason")}>{children}</p>;
}

/** Doubtful things; a press shows where each is. */
function Doubts({
  sheet,
  box,
  setBox,
}: {
  sheet: Arrival["sheet"];
  box: Box | null;
  setBox: (box: Box | null) => void;
}) {
  if (!sheet.doubts.length) return <p className="quiet mt-2">Nothing doubtful was found.</p>;
  return (
    <>
      <h3>To be looked at</h3>
      <ul className={cls("doubts")} aria-label="Doubtful things">
        {sheet.doubts.map((doubt, k) => {
          const found = doubt.box as Box | null;
          const on = found !== null && JSON.stringify(found) === JSON.stringify(box);
          const text = (
            <>
              {doubt.kind !== "surface" && doubt.about && <b>{doubt.about}: </b>}
              {doubt.text}
            </>
          );
          return (
            <li key={k}>
              {found ? (
                <button aria-pressed={on} onClick={() => setBox(on ? null : found)}>
                  {text}
                </button>
              ) : (
                <span>{text}</span>
              )}
            </li>
          );
        })}
      </ul>
    </>
  );
}
