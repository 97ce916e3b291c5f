import type { LiveHeader, PictureMode } from "../api/live";
import { lux } from "../fixtures/Readings";
import { classesOf } from "../ui/classes";
import styles from "./PictureModes.module.css";

const cls = classesOf(styles);

const MODES: [PictureMode, string, string][] = [
  ["picture", "Picture", "as developed"],
  ["luminance", "Luminance", "false colour in cd/m²"],
  ["illuminance", "Illuminance", "false colour in lx, as if every surface were matt"],
  ["clipped", "Clipped", "whites striped in orange, blacks in blue"],
];

interface Props {
  mode: PictureMode;
  setMode: (mode: PictureMode) => void;
  metering: boolean;
  setMetering: (on: boolean) => void;
}

/** How the live picture is shown, and the meter. */
export function PictureModes({ mode, setMode, metering, setMetering }: Props) {
  return (
    <span className={cls("modes")} role="group" aria-label="How the picture is shown">
      {MODES.map(([key, name, title]) => (
        <button key={key} aria-pressed={mode === key} title={title} onClick={() => setMode(key)}>
          {name}
        </button>
      ))}
      <button
        aria-pressed={metering}
        title="Point at the picture to read it (M)"
        onClick={() => setMetering(!metering)}
      >
        Meter
      </button>
    </span>
  );
}

/** The scale of a false-colour picture. */
export function Legend({ legend }: { legend: NonNullable<LiveHeader["legend"]> }) {
  return (
    <div className={cls("scale number")} aria-label={`Scale in ${legend.unit}`}>
      {[...legend.steps].reverse().map(([value, colour]) => (
        <span key={value}>
          <i style={{ background: colour }} />
          {value >= 1 ? Math.round(value) : lux(value)}
        </span>
      ))}
      <b>{legend.unit === "cd/m2" ? "cd/m²" : legend.unit}</b>
    </div>
  );
}
