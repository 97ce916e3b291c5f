import { Form } from "react-bootstrap";

import type { Occasion, View } from "../api/client";
import type { LiveHeader } from "../api/live";
import { exposureValue, lensOf } from "../bench/steps";
import { lensForEv } from "../bench/exposure";
import type { Hands } from "../bench/useBench";
import type { Done } from "../state/store";
import { Button } from "../ui/Button";
import { shutterText } from "../ui/format";
import { readNumber, readShutter } from "../ui/reading";
import { Value } from "../ui/Value";
import { FormatChooser } from "./FormatChooser";

interface Props {
  view: View;
  occasion: Occasion;
  header: LiveHeader | null;
  hands: Hands;
}

/** Exposure by f-number, shutter and ISO, and where the lens stands. */
export function LensInstrument({ view, occasion, header, hands }: Props) {
  const lens = lensOf(view, occasion.key);
  const { f_number = 8, shutter_s = 1 / 60, iso = 100 } = lens;
  const ev = exposureValue(lens);
  const advice = header?.metered_ev100 ?? null;
  const off = advice === null ? null : advice - ev;
  const lensHands = (label: string, name: "f_number" | "shutter_s" | "iso") => ({
    onChange: (v: number, done: Done) => hands.lens(label, { [name]: v }, done),
  });
  const move = (which: "position" | "target", axis: number) => {
    const make = (v: number) =>
      ({ [which]: view[which].map((old, k) => (k === axis ? v : old)) }) as Partial<View>;
    return {
      onChange: (v: number, done: Done) => hands.view("Move lens", make(v), done),
    };
  };
  return (
    <>
      <h2>Lens</h2>
      <p className="lead">Exposure for this occasion; it never moves on its own.</p>
      <Value
        label="f-number"
        value={f_number}
        min={1}
        max={32}
        step={0.1}
        log
        format={(v) => `f/${Number(v.toPrecision(2))}`}
        parse={(t) => readNumber(t.replace(/^\s*f\s*\/?/i, ""))}
        {...lensHands("f-number", "f_number")}
      />
      <Value
        label="Shutter"
        value={shutter_s}
        min={1 / 8000}
        max={60}
        step={0.001}
        log
        format={shutterText}
        parse={readShutter}
        {...lensHands("Shutter", "shutter_s")}
      />
      <Value
        label="ISO"
        value={iso}
        min={25}
        max={25600}
        step={10}
        log
        format={(v) => `ISO ${Math.round(v)}`}
        parse={(t) => readNumber(t.replace(/iso/i, ""), "", 25, 25600)}
        {...lensHands("ISO", "iso")}
      />
      <Scale ev={ev} advice={advice} />
      {off !== null && Math.abs(off) > 2 ? (
        <p className="mb-1">
          <span className="error-text">
            The picture is {Math.abs(off).toFixed(1)} stops {off > 0 ? "over" : "under"}.
          </span>{" "}
          <Button
            size="sm"
            variant="outline-dark"
            onClick={() => hands.lens("Lens as metered", lensForEv(lens, advice!), true)}
          >
            Set EV {advice!.toFixed(1)}
          </Button>
        </p>
      ) : (
        <p className="quiet mb-1">
          {advice === null ? "Nothing is lit: no source is on." : `The meter reads EV ${advice.toFixed(1)}.`}
        </p>
      )}
      <hr />
      <Value
        label="Focal length"
        value={view.focal_mm ?? 24}
        min={10}
        max={200}
        step={0.5}
        unit="mm"
        log
        onChange={(v, done) => hands.view("Focal length", { focal_mm: v }, done)}
      />
      <FormatChooser
        value={view.format ?? [16, 9]}
        onChange={(format) => hands.view("Format", { format }, true)}
      />
      <Form.Check
        type="switch"
        id="verticals"
        label="Verticals upright"
        checked={view.keep_verticals ?? true}
        onChange={(e) => hands.view("Verticals", { keep_verticals: e.target.checked }, true)}
      />
      <Form.Check
        type="switch"
        id="sharp"
        label="Everything sharp"
        checked={view.focus_m == null}
        onChange={(e) => {
          const gap = Math.hypot(...view.position.map((p, k) => view.target[k] - p));
          hands.view("Focus", { focus_m: e.target.checked ? null : Number(gap.toFixed(2)) }, true);
        }}
      />
      {view.focus_m != null && (
        <Value
          label="Focus at"
          value={view.focus_m}
          min={0.2}
          max={200}
          step={0.1}
          unit="m"
          log
          onChange={(v, done) => hands.view("Focus", { focus_m: v }, done)}
        />
      )}
      <h3>Stands at, in metres</h3>
      {["X", "Y", "Height"].map((label, axis) => (
        <Value
          key={label}
          label={label}
          value={view.position[axis]}
          min={-200}
          max={200}
          step={0.05}
          unit="m"
          {...move("position", axis)}
        />
      ))}
      <h3>Looks at, in metres</h3>
      {["X", "Y", "Height"].map((label, axis) => (
        <Value
          key={label}
          label={label}
          value={view.target[axis]}
          min={-200}
          max={200}
          step={0.05}
          unit="m"
          {...move("target", axis)}
        />
      ))}
    </>
  );
}

/** Exposure values on a rule: the lens's mark above, the meter's below. */
function Scale({ ev, advice }: { ev: number; advice: number | null }) {
  const x = (v: number) => 10 + ((Math.min(Math.max(v, -4), 18) + 4) / 22) * 240;
  return (
    <svg viewBox="0 0 260 46" width="100%" role="img" aria-label={`Lens at EV ${ev.toFixed(1)}`}>
      <line x1="10" x2="250" y1="24" y2="24" stroke="#1e1e1e" />
      {Array.from({ length: 23 }, (_, k) => k - 4).map((v) => (
        <g key={v}>
          <line x1={x(v)} x2={x(v)} y1="24" y2={v % 2 ? 27 : 30} stroke="#1e1e1e" />
          {v % 4 === 0 && (
            <text x={x(v)} y="41" fontSize="9" textAnchor="middle" fontFamily="var(--numbers)" fill="#5a5a5a">
              {v}
            </text>
          )}
        </g>
      ))}
      {advice !== null && <path d={`M${x(advice)} 25l-4 7h8z`} fill="#35627f" />}
      <path d={`M${x(ev)} 23l-4 -7h8z`} fill="#1e1e1e" />
      <text x={x(ev)} y="11" fontSize="10" textAnchor="middle" fontFamily="var(--numbers)">
        EV {ev.toFixed(1)}
      </text>
    </svg>
  );
}
