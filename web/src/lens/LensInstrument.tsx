import { Form } from "react-bootstrap";
import { Link } from "react-router";

import { api, type Lens, type Occasion, type View } from "../api/client";
import type { LiveHeader } from "../api/live";
import { exposureValue, lensOf } from "../bench/steps";
import { lensForEv } from "../bench/exposure";
import type { Hands } from "../bench/useBench";
import { useModels, useServer } from "../state/server";
import { type Done, useStore } from "../state/store";
import { Button } from "../ui/Button";
import { readNumber, readShutter } from "../ui/reading";
import { Value } from "../ui/Value";
import { classesOf } from "../ui/classes";
import { ExposureRule } from "./ExposureRule";
import { FormatChooser } from "./FormatChooser";
import { LensDrawing } from "./LensDrawing";
import { GUIDES, type Guide } from "./LensOver";
import { StopRing } from "./StopRing";
import { useReading, useScales } from "./useLens";
import type { LensPointer } from "./useLensPointer";
import styles from "./lens.module.css";

const cls = classesOf(styles);

export interface LensDesk {
  guides: readonly Guide[];
  cropping: boolean;
  /** A ring that is turned takes the shutter along, so that the exposure stays. */
  holdsEv: boolean;
}

interface Props {
  slug: string;
  view: View;
  occasion: Occasion;
  header: LiveHeader | null;
  hands: Hands;
  desk: LensDesk;
  put: (what: Partial<LensDesk>) => void;
  pointer: LensPointer;
}

type RingName = "f_number" | "shutter_s" | "iso";

/** Exposure on its rule and rings, the lens in plan and section, the frame, and where it stands. */
export function LensInstrument({ slug, view, occasion, header, hands, desk, put, pointer }: Props) {
  const lens = lensOf(view, occasion.key);
  const values = { f_number: lens.f_number ?? 8, shutter_s: lens.shutter_s ?? 1 / 60, iso: lens.iso ?? 100 };
  const ev = exposureValue(lens);
  const scales = useScales();
  const reading = useReading(view, occasion.key);
  const advised = header?.advised ?? null;
  if (!scales || !reading) return <p className="quiet">Reading the lens…</p>;

  /** One ring turned; where the exposure is held, the shutter makes up for it. */
  const turn = (ring: RingName) => (value: number, done: Done) => {
    const patch: Partial<Lens> = { [ring]: value };
    if (desk.holdsEv && ring !== "shutter_s") {
      const lost =
        ring === "f_number" ? 2 * Math.log2(value / values.f_number) : Math.log2(values.iso / value);
      patch.shutter_s = Math.min(Math.max(values.shutter_s * 2 ** lost, 1 / 64000), 3600);
    }
    hands.lens(LABELS[ring], patch, done);
  };
  const toEv = (label: string, to: number, done: Done = true) => hands.lens(label, lensForEv(lens, to), done);
  const off = advised === null ? 0 : advised.average - ev;
  return (
    <>
      <h2>Lens</h2>
      <ExposureRule
        ev={ev}
        header={header}
        usual={scales.usual}
        set={(to, done) => {
          // The window is dragged by the shutter alone: speed and aperture stay what they were set to.
          const shutter_s = values.f_number ** 2 / 2 ** to / (values.iso / 100);
          hands.lens("Exposure", { shutter_s: Math.min(Math.max(shutter_s, 1 / 64000), 3600) }, done);
        }}
      />
      {Math.abs(off) > 2 && (
        <p className="mb-1 error-text">
          The picture is {Math.abs(off).toFixed(1)} stops {off > 0 ? "over" : "under"}.
        </p>
      )}
      <div className={cls("advised")} role="group" aria-label="Exposure as advised">
        {advised === null ? (
          <span className="quiet">Nothing is lit: no source is on.</span>
        ) : (
          ADVICE.map(([name, label, why]) => (
            <button key={name} title={why} onClick={() => toEv(`Exposure by ${label}`, advised[name])}>
              {label} <b className="number">{advised[name].toFixed(1)}</b>
            </button>
          ))
        )}
        <button
          aria-pressed={pointer.pointing === "key"}
          title="Point at what is to be middle grey"
          onClick={() => pointer.setPointing(pointer.pointing === "key" ? null : "key")}
        >
          {pointer.pointing === "key" ? "point at it…" : "key area"}
        </button>
      </div>
      <StopRing
        label="f-number"
        ring={scales.f_number}
        click={reading.f_number.click}
        written={reading.f_number.label}
        parse={(t) => readNumber(t.replace(/^\s*f\s*\/?/i, ""))}
        least={0.7}
        most={128}
        set={turn("f_number")}
      />
      <StopRing
        label="Shutter"
        ring={scales.shutter_s}
        click={reading.shutter_s.click}
        written={reading.shutter_s.label}
        parse={readShutter}
        least={1 / 64000}
        most={3600}
        set={turn("shutter_s")}
      />
      <StopRing
        label="ISO"
        ring={scales.iso}
        click={reading.iso.click}
        written={reading.iso.label}
        parse={(t) => readNumber(t.replace(/iso/i, ""), "", 1, 409600)}
        least={1}
        most={409600}
        set={turn("iso")}
      />
      <Form.Check
        type="switch"
        id="holds-ev"
        label="Hold the exposure: the shutter follows"
        checked={desk.holdsEv}
        onChange={(e) => put({ holdsEv: e.target.checked })}
      />
      <hr />
      <LensDrawing slug={slug} view={view} reading={reading} hands={hands} />
      <p className={cls("told")}>
        {view.focus_m == null ? (
          "Everything is sharp."
        ) : (
          <>
            Sharp from <b className="number">{metres(reading.near_m)}</b> to{" "}
            <b className="number">{reading.far_m === null ? "without end" : metres(reading.far_m)}</b>.
          </>
        )}{" "}
        Hyperfocal distance <span className="number">{metres(reading.hyperfocal_m)}</span> at{" "}
        {reading.f_number.label}. Sees{" "}
        <span className="number">
          {reading.across_deg.toFixed(0)}° × {reading.upright_deg.toFixed(0)}°
        </span>
        {Math.abs(reading.focal_on_36_mm - (view.focal_mm ?? 24)) > 0.5 && (
          <>, as {reading.focal_on_36_mm.toFixed(0)} mm on 36 mm of film</>
        )}
        .
      </p>
      <div className={cls("row")}>
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
        <Button
          size="sm"
          variant={pointer.pointing === "focus" ? "dark" : "outline-dark"}
          aria-pressed={pointer.pointing === "focus"}
          onClick={() => pointer.setPointing(pointer.pointing === "focus" ? null : "focus")}
        >
          {pointer.pointing === "focus" ? "Point at it…" : "Focus by pointing"}
        </Button>
      </div>
      {view.focus_m != null && (
        <>
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
          {!view.tilt_deg && !view.swing_deg && (
            <p className="quiet mb-1">The blur here is a preview; plates are taken with the lens itself.</p>
          )}
        </>
      )}
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
      <hr />
      <div className={cls("row")} role="group" aria-label="Guides">
        {GUIDES.map((g) => (
          <button
            key={g}
            className={cls("toggle")}
            aria-pressed={desk.guides.includes(g)}
            onClick={() =>
              put({
                guides: desk.guides.includes(g) ? desk.guides.filter((o) => o !== g) : [...desk.guides, g],
              })
            }
          >
            {g}
          </button>
        ))}
        <Button
          size="sm"
          variant={desk.cropping ? "dark" : "outline-dark"}
          aria-pressed={desk.cropping}
          onClick={() => put({ cropping: !desk.cropping })}
        >
          Cut the picture
        </Button>
      </div>
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
      <Shift view={view} hands={hands} />
      <Standing slug={slug} view={view} occasion={occasion} heights={scales.eye_heights_m} hands={hands} />
      <Places view={view} hands={hands} />
      <p className="mt-2 mb-0">
        <Link to={`/p/${slug}/sequences?view=${view.key}&occasion=${occasion.key}`}>
          Let this lens move: a sequence
        </Link>
      </p>
    </>
  );
}

const LABELS: Record<RingName, string> = { f_number: "f-number", shutter_s: "Shutter", iso: "ISO" };
const ADVICE = [
  ["average", "average", "The mean of the picture becomes middle grey"],
  ["centre", "centre", "The middle of the picture becomes middle grey"],
  ["highlights", "highlights kept", "The brightest parts just reach white"],
] as const;

export const metres = (v: number) => `${v >= 100 ? v.toFixed(0) : v >= 10 ? v.toFixed(1) : v.toFixed(2)} m`;

/** What the film was shifted or cut by, and the way back. */
function Shift({ view, hands }: { view: View; hands: Hands }) {
  const [x, y, film] = [view.shift_x ?? 0, view.shift_y ?? 0, view.film_width_mm ?? 36];
  if (!x && !y && film === 36) return null;
  return (
    <p className={cls("told")}>
      Film <span className="number">{film.toFixed(1)} mm</span> wide, shifted{" "}
      <span className="number">
        {(x * film).toFixed(1)} mm right, {(y * film).toFixed(1)} mm up
      </span>
      .{" "}
      <Button
        size="sm"
        variant="link"
        className="p-0"
        onClick={() => hands.view("Whole film", { shift_x: 0, shift_y: 0, film_width_mm: 36 }, true)}
      >
        Whole film
      </Button>
    </p>
  );
}

interface StandingProps {
  slug: string;
  view: View;
  occasion: Occasion;
  heights: Record<string, number>;
  hands: Hands;
}

/** How high the lens stands and how far from what is about it; usual heights of the eye. */
function Standing({ slug, view, occasion, heights, hands }: StandingProps) {
  const models = useModels();
  const saved = useStore((s) => s.saved?.description.views?.find((v) => v.key === view.key));
  const at = JSON.stringify(saved && [saved.position, saved.target]);
  const found = useServer(
    ["standing", slug, models, view.key, occasion.key, occasion.hidden_layers, at],
    () => api.lensStanding(slug, view.key, occasion.key),
    { afterMs: 200 },
  );
  if (!found) return null;
  const lift = (name: string, height: number) => {
    const by = found.ground_z! + height - view.position[2];
    const up = ([x, y, z]: View["position"]) => [x, y, Number((z + by).toFixed(3))] as View["position"];
    hands.view(`Height of the eye, ${name}`, { position: up(view.position), target: up(view.target) }, true);
  };
  const beside = (["ahead", "left", "right", "behind"] as const).flatMap((side) =>
    found[side] === null ? [] : [`${side} ${metres(found[side])}`],
  );
  return (
    <>
      <p className={cls("told")}>
        {found.floor === null ? (
          "Nothing is under the lens."
        ) : (
          <>
            <b className="number">{metres(found.floor)}</b> over the ground
            {found.ceiling !== null && <>, {metres(found.ceiling)} under what is above</>}.
          </>
        )}{" "}
        {found.subject !== null && (
          <>
            The middle of the picture is <span className="number">{metres(found.subject)}</span> away.{" "}
          </>
        )}
        {beside.length > 0 && <>Free: {beside.join(", ")}.</>}
      </p>
      {found.floor !== null && (
        <div className={cls("row")} role="group" aria-label="Height of the eye">
          {Object.entries(heights).map(([name, height]) => (
            <Button
              key={name}
              size="sm"
              variant="outline-dark"
              disabled={Math.abs(view.position[2] - found.ground_z! - height) < 0.005}
              onClick={() => lift(name, height)}
            >
              {name} {height.toFixed(2)} m
            </Button>
          ))}
        </div>
      )}
    </>
  );
}

/** Where the lens stands and looks, in numbers. */
function Places({ view, hands }: { view: View; hands: Hands }) {
  return (
    <details className="mt-2">
      <summary>In numbers</summary>
      {(["position", "target"] as const).map((which) => (
        <div key={which}>
          <h3>{which === "position" ? "Stands at, in metres" : "Looks at, in metres"}</h3>
          {["X", "Y", "Height"].map((label, axis) => (
            <Value
              key={label}
              label={label}
              value={view[which][axis]}
              min={-200}
              max={200}
              step={0.05}
              unit="m"
              onChange={(v, done) =>
                hands.view(
                  "Move lens",
                  { [which]: view[which].map((old, k) => (k === axis ? v : old)) } as Partial<View>,
                  done,
                )
              }
            />
          ))}
        </div>
      ))}
    </details>
  );
}
