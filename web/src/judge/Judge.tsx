import { useEffect, useRef, useState } from "react";
import { Form } from "react-bootstrap";

import { api, type Plate, type ScopesRead } from "../api/client";
import type { LiveHeader, PictureMode } from "../api/live";
import { queries, useServer } from "../state/server";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { clockText } from "../ui/format";
import { classesOf } from "../ui/classes";
import { Histogram, Vectors, Waveform, Zones } from "./Scopes";
import styles from "./judge.module.css";

const cls = classesOf(styles);

/** Readings of the finished picture, and what each is good for. */
export const READINGS: [PictureMode, string, string][] = [
  ["picture", "As it is", "The picture as its look makes it"],
  ["grey", "Grey", "Luminance alone: does it hold without colour?"],
  ["zones", "Zones", "Exposure zones, whole stops about middle grey"],
  ["protan", "No red cones", "As about one man in a hundred sees it"],
  ["deutan", "No green cones", "As about one man in a hundred sees it"],
  ["tritan", "No blue cones", "As very few see it"],
];
export interface Proof {
  sha256: string;
  paperWhite: boolean;
}

interface Props {
  slug: string;
  view: string;
  occasion: string;
  plate: Plate | null;
  /** The plate it is held against. */
  against: Plate | null;
  header: LiveHeader | null;
  mode: PictureMode;
  setMode: (mode: PictureMode) => void;
  proof: Proof | null;
  setProof: (proof: Proof | null) => void;
}

/** Instruments that read the finished picture, other ways of seeing it, and what differs between plates. */
export function Judge({
  slug,
  view,
  occasion,
  plate,
  against,
  header,
  mode,
  setMode,
  proof,
  setProof,
}: Props) {
  const seen = header
    ? [header.width > 480, Math.round(Math.log2(header.samples + 1)), header.shares, header.ev100]
    : null;
  const look = useStore((s) => s.saved?.revision);
  const read = useServer(
    plate ? ["scopes", plate.id] : ["scopes", slug, view, occasion, seen, look],
    () => (plate ? api.plateScopes(plate.id) : api.liveScopes(slug, view, occasion)),
    { ready: plate !== null || header !== null, afterMs: 200 },
  );
  return (
    <>
      <h2>Judge</h2>
      <div className={cls("readings")} role="group" aria-label="The picture is seen">
        {READINGS.map(([key, name, why]) => (
          <button
            key={key}
            title={why}
            aria-pressed={mode === key && proof === null}
            onClick={() => {
              setProof(null);
              setMode(key);
            }}
          >
            {name}
          </button>
        ))}
      </div>
      {read ? <Instruments read={read} /> : <p className="quiet">Reading the picture…</p>}
      <Print plate={plate} proof={proof} setProof={setProof} />
      {plate && <Facts plate={plate} against={against} />}
    </>
  );
}

function Instruments({ read }: { read: ScopesRead }) {
  const cut = [
    read.black > 5e-4 && `${percent(read.black)} black`,
    read.white > 5e-4 && `${percent(read.white)} white`,
  ].filter(Boolean);
  return (
    <>
      <Histogram read={read} />
      <Waveform read={read} />
      <div className={cls("pair")}>
        <Vectors read={read} />
        <p className={cls("told")}>
          The mean of the picture is <b>{read.cast}</b>
          {read.mean_kelvin !== null && <span className="number"> ({read.mean_kelvin.toFixed(0)} K)</span>}.
          <br />
          {cut.length > 0 ? `Cut off: ${cut.join(", ")}.` : "Nothing is cut off."}
        </p>
      </div>
      <Zones read={read} />
    </>
  );
}

const percent = (share: number) => `${(100 * share).toFixed(share < 0.1 ? 1 : 0)} %`;

/** How a plate prints, by the ICC profile of a printer and its paper. */
function Print({ plate, proof, setProof }: Pick<Props, "plate" | "proof" | "setProof">) {
  const profiles = useServer(["print-profiles"], () => api.printProfiles());
  const field = useRef<HTMLInputElement>(null);
  const notify = useStore((s) => s.notify);
  const take = async (file: File) => {
    try {
      const made = await api.takePrintProfile(file);
      await queries.invalidateQueries({ queryKey: ["print-profiles"] });
      if (plate) setProof({ sha256: made.sha256, paperWhite: false });
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  return (
    <>
      <h3>In print</h3>
      {!plate ? (
        <p className="quiet mb-1">Choose a plate of the strip to see how it prints.</p>
      ) : (
        <div className={cls("print")}>
          <Form.Select
            size="sm"
            aria-label="Printer and paper"
            value={proof?.sha256 ?? ""}
            onChange={(e) =>
              setProof(
                e.target.value ? { sha256: e.target.value, paperWhite: proof?.paperWhite ?? false } : null,
              )
            }
          >
            <option value="">On the screen</option>
            {(profiles ?? []).map((p) => (
              <option key={p.sha256} value={p.sha256}>
                {p.name}
              </option>
            ))}
          </Form.Select>
          {proof && (
            <Form.Check
              type="switch"
              id="paper-white"
              label="white of the paper"
              checked={proof.paperWhite}
              onChange={(e) => setProof({ ...proof, paperWhite: e.target.checked })}
            />
          )}
        </div>
      )}
      <Button size="sm" variant="outline-dark" onClick={() => field.current?.click()}>
        Bring in a profile (.icc)
      </Button>
      <input
        ref={field}
        type="file"
        accept=".icc,.icm"
        hidden
        aria-label="Print profile"
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) void take(file);
        }}
      />
    </>
  );
}

/** What a plate is, what is noted of it, and what is otherwise now, or on the plate it is held against. */
function Facts({ plate, against }: { plate: Plate; against: Plate | null }) {
  const commit = useStore((s) => s.commit);
  const revision = useStore((s) => s.saved?.revision);
  const told = useServer(["differences", plate.id, against?.id ?? revision], () =>
    api.plateDifferences(plate.id, against?.id),
  );
  const [note, setNote] = useState(plate.note);
  useEffect(() => setNote(plate.note), [plate.id, plate.note]);
  const keep = () => {
    const text = note.trim();
    if (text !== plate.note)
      void commit("Note of a plate", [{ part: "plate", key: String(plate.id), at: ["note"], value: text }]);
  };
  return (
    <>
      <h3>This plate</h3>
      <p className={cls("told")}>
        {plate.name || plate.quality} of {clockText(plate.created)},{" "}
        <span className="number">
          {plate.width} × {plate.height}
        </span>
        , {plate.samples} samples{plate.seconds > 0 && `, made in ${plate.seconds.toFixed(0)} s`}.
      </p>
      <Form.Control
        as="textarea"
        size="sm"
        rows={2}
        maxLength={500}
        aria-label="Note"
        placeholder="A note for this plate"
        value={note}
        onChange={(e) => setNote(e.target.value)}
        onBlur={keep}
      />
      <h3>{against ? "Otherwise on the other plate" : "Otherwise now"}</h3>
      {told === undefined ? null : told.length === 0 ? (
        <p className="quiet mb-0">Nothing: it has the same settings.</p>
      ) : (
        <ul className={cls("differences")} aria-label="Differences">
          {told.map((d, k) => (
            <li key={k}>{d.text}</li>
          ))}
        </ul>
      )}
    </>
  );
}
