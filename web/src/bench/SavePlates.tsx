import { useState } from "react";
import { Form, Modal } from "react-bootstrap";

import { api, type ExportWanted, type Plate } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { clockText } from "../ui/format";
import { NumberField } from "../ui/NumberField";
import styles from "./SavePlates.module.css";

const cls = classesOf(styles);

const FORMS: [NonNullable<ExportWanted["form"]>, string][] = [
  ["png", "PNG, 8 bits"],
  ["png16", "PNG, 16 bits"],
  ["jpeg", "JPEG"],
  ["tiff16", "TIFF, 16 bits"],
  ["layers", "TIFF, 16 bits, a page for each light"],
  ["exr", "OpenEXR, linear, every light and pass"],
];
const FITS: [NonNullable<ExportWanted["fit"]>, string][] = [
  ["made", "As made"],
  ["uhd", "Screen, 3840 × 2160"],
  ["a4", "Paper A4"],
  ["a3", "Paper A3"],
  ["a2", "Paper A2"],
  ["a1", "Paper A1"],
];
const WORDS = "{project} {view} {occasion} {quality} {width} {height} {date} {number}";

interface Props {
  slug: string;
  /** Those of the strip, and the one that is shown. */
  plates: Plate[];
  shown: number;
  close: () => void;
}

/** Plates saved as files: which, in what form, how large, under what names. */
export function SavePlates({ slug, plates, shown, close }: Props) {
  const notify = useStore((s) => s.notify);
  const [chosen, setChosen] = useState<number[]>([shown]);
  const [form, setForm] = useState<NonNullable<ExportWanted["form"]>>("png");
  const [fit, setFit] = useState<NonNullable<ExportWanted["fit"]>>("made");
  const [dpi, setDpi] = useState(300);
  const [pattern, setPattern] = useState("{project} {view} {occasion} {number}");
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState("");
  const save = async () => {
    setBusy(true);
    setRefused("");
    try {
      const made = await api.exportPlates(slug, { plates: chosen, form, fit, dpi, pattern });
      const link = document.createElement("a");
      link.href = made.url;
      link.download = made.name;
      link.click();
      const [width, height] = made.sizes[0];
      const size = chosen.length > 1 ? `${chosen.length} pictures` : `${width} × ${height}`;
      const word =
        made.enlarged > 1.05
          ? `, enlarged ${made.enlarged.toFixed(1)} times: make a larger plate for finer detail`
          : "";
      notify(`${made.name}: ${size}${word}.`);
      close();
    } catch (error) {
      setRefused((error as Error).message);
    }
    setBusy(false);
  };
  return (
    <Modal show onHide={close} aria-labelledby="save-plates" centered>
      <Modal.Header closeButton>
        <Modal.Title id="save-plates" as="h2" className="named">
          Save plates
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <div className={cls("plates")} role="group" aria-label="Plates">
          {plates.map((plate) => {
            const name = `${plate.name || plate.quality} of ${clockText(plate.created)}`;
            return (
              <label key={plate.id} className={cls(chosen.includes(plate.id) ? "plate on" : "plate")}>
                <input
                  type="checkbox"
                  aria-label={name}
                  checked={chosen.includes(plate.id)}
                  onChange={(e) =>
                    setChosen(
                      e.target.checked ? [...chosen, plate.id] : chosen.filter((id) => id !== plate.id),
                    )
                  }
                />
                <img src={api.thumb(plate.id)} alt="" />
                <span>{name}</span>
              </label>
            );
          })}
        </div>
        <div className={cls("rows")}>
          <label htmlFor="save-form">Form</label>
          <Form.Select
            id="save-form"
            size="sm"
            value={form}
            onChange={(e) => setForm(e.target.value as typeof form)}
          >
            {FORMS.map(([key, word]) => (
              <option key={key} value={key}>
                {word}
              </option>
            ))}
          </Form.Select>
          <label htmlFor="save-fit">Size</label>
          <div className="d-flex gap-2">
            <Form.Select
              id="save-fit"
              size="sm"
              value={form === "exr" ? "made" : fit}
              disabled={form === "exr"}
              onChange={(e) => setFit(e.target.value as typeof fit)}
            >
              {FITS.map(([key, word]) => (
                <option key={key} value={key}>
                  {word}
                </option>
              ))}
            </Form.Select>
            {fit.startsWith("a") && form !== "exr" && (
              <NumberField
                label="Dots to the inch"
                value={dpi}
                unit="dpi"
                min={30}
                max={1200}
                onChange={(v) => v !== null && setDpi(v)}
              />
            )}
          </div>
          <label htmlFor="save-pattern">Name</label>
          <Form.Control
            id="save-pattern"
            size="sm"
            value={pattern}
            maxLength={120}
            aria-describedby="save-words"
            onChange={(e) => setPattern(e.target.value)}
          />
        </div>
        <p id="save-words" className="quiet mb-0 mt-1">
          {WORDS} stand for their own.
        </p>
        {refused && (
          <p className="error-text mb-0 mt-2" role="alert">
            {refused}
          </p>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button
          variant="dark"
          size="sm"
          disabled={busy || chosen.length === 0 || !pattern}
          onClick={() => void save()}
        >
          {busy ? "Writing…" : chosen.length > 1 ? `Save ${chosen.length} as a zip` : "Save"}
        </Button>
      </Modal.Footer>
    </Modal>
  );
}
