import { useEffect, useRef, useState } from "react";

import { clamp } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import { atPixels, DIFFERENCE_GAINS, FIT, type Looking, panned, WAYS, type Way, zoomed } from "./looking";
import styles from "./Comparison.module.css";

const cls = classesOf(styles);
const FLICKER_MS = 700;
/** The loupe shows so many pixels of the screen for one of the picture, in a disc so wide. */
const [LOUPE_TIMES, LOUPE_PX] = [4, 170];

export interface Compared {
  url: string;
  /** What it is, for people. */
  told: string;
  alt: string;
}

interface Props {
  /** Two to four; the first is the one looked at. */
  pictures: Compared[];
  /** Width over height. */
  aspect: number;
}

/** Pictures held against each other: under a slider, side by side, by turns, or by their difference; looked at closely together. */
export function Comparison({ pictures, aspect }: Props) {
  const [way, setWay] = useState<Way>("slider");
  const [looking, setLooking] = useState<Looking>(FIT);
  const [split, setSplit] = useState(50);
  const [loupe, setLoupe] = useState(false);
  const [glass, setGlass] = useState<[number, number] | null>(null);
  const [gain, setGain] = useState(4);
  const [turn, setTurn] = useState(0);
  const [still, setStill] = useState(
    () => window.matchMedia?.("(prefers-reduced-motion: reduce)").matches ?? false,
  );
  const area = useRef<HTMLDivElement>(null);
  const natural = useRef<[number, number]>([0, 0]);
  const shown = way === "side" ? pictures : pictures.slice(0, way === "flicker" ? 4 : 2);
  const flickers = way === "flicker";
  useEffect(() => {
    if (!flickers || still) return;
    const timer = window.setInterval(() => setTurn((n) => n + 1), FLICKER_MS);
    return () => window.clearInterval(timer);
  }, [flickers, still]);

  const columns = way === "side" ? (shown.length > 1 ? 2 : 1) : 1;
  const rows = way === "side" ? Math.ceil(shown.length / columns) : 1;
  /** Where a pointer is in the picture it is over, 0 to 1. */
  const within = (e: { clientX: number; clientY: number }): [number, number] => {
    const box = area.current!.getBoundingClientRect();
    const [w, h] = [box.width / columns, box.height / rows];
    const [x, y] = [(e.clientX - box.left) / w, (e.clientY - box.top) / h];
    return [
      clamp(x - Math.floor(clamp(x, 0, columns - 1e-6)), 0, 1),
      clamp(y - Math.floor(clamp(y, 0, rows - 1e-6)), 0, 1),
    ];
  };
  const from = useRef<{ at: [number, number]; looking: Looking }>({ at: [0, 0], looking: FIT });
  const drag = useDrag({
    start: (e) => {
      if ((e.target as Element).closest("input, button, select")) return false;
      from.current = { at: [e.clientX, e.clientY], looking };
    },
    move: (e) => {
      const box = area.current!.getBoundingClientRect();
      const [dx, dy] = [e.clientX - from.current.at[0], e.clientY - from.current.at[1]];
      setLooking(panned(from.current.looking, (dx / box.width) * columns, (dy / box.height) * rows));
    },
    end: () => undefined,
    cancel: () => setLooking(from.current.looking),
  });
  useEffect(() => {
    const element = area.current!;
    const onWheel = (e: WheelEvent) => {
      e.preventDefault();
      const at = within(e);
      setLooking((was) => zoomed(was, e.deltaY > 0 ? 1 / 1.25 : 1.25, at));
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [columns, rows]);
  const onePixel = () => {
    const box = area.current!.getBoundingClientRect();
    setLooking((was) => atPixels(was, natural.current[0], box.width / columns, window.devicePixelRatio || 1));
  };
  const key = (e: React.KeyboardEvent) => {
    if (e.target !== e.currentTarget || e.ctrlKey || e.metaKey || e.altKey) return;
    const pan = { ArrowLeft: [0.1, 0], ArrowRight: [-0.1, 0], ArrowUp: [0, 0.1], ArrowDown: [0, -0.1] }[
      e.key
    ];
    if (pan) setLooking((was) => panned(was, pan[0], pan[1]));
    else if (e.key === "+" || e.key === "=") setLooking((was) => zoomed(was, 1.25, [0.5, 0.5]));
    else if (e.key === "-") setLooking((was) => zoomed(was, 1 / 1.25, [0.5, 0.5]));
    else if (e.key === "0") setLooking(FIT);
    else if (e.key === "1") onePixel();
    else if (e.key === " " && flickers) {
      setStill(true);
      setTurn((n) => n + 1);
    } else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const moved = { transform: `translate(${looking.x * 100}%, ${looking.y * 100}%) scale(${looking.scale})` };
  const crisp = looking.scale > 1 ? cls("crisp") : undefined;
  const image = (p: Compared, k: number) => (
    <img
      src={p.url}
      alt={p.alt}
      draggable={false}
      style={moved}
      className={crisp}
      onLoad={(e) => {
        if (k === 0) natural.current = [e.currentTarget.naturalWidth, e.currentTarget.naturalHeight];
      }}
    />
  );
  const name = (p: Compared, where: React.CSSProperties) => (
    <span className={cls("side")} style={where}>
      {p.told}
    </span>
  );
  const lens = (p: Compared) =>
    loupe &&
    glass && <Loupe url={p.url} at={glass} looking={looking} wide={natural.current[0]} aspect={aspect} />;
  const front = turn % shown.length;
  return (
    <div
      ref={area}
      className={cls("area")}
      tabIndex={0}
      role="group"
      aria-label="Compared pictures: arrow keys move them, + and − zoom, 0 fits, 1 shows pixel for pixel"
      onKeyDown={key}
      onPointerLeave={() => setGlass(null)}
      {...drag}
      onPointerMove={(e) => {
        if (loupe) setGlass(within(e));
        drag.onPointerMove(e);
      }}
    >
      {way === "side" && (
        <div className={cls("grid")} style={{ gridTemplateColumns: `repeat(${columns}, 1fr)` }}>
          {shown.map((p, k) => (
            <div key={k} className={cls("cell")}>
              {image(p, k)}
              {lens(p)}
              {name(p, { left: 8 })}
            </div>
          ))}
        </div>
      )}
      {way === "slider" && (
        <>
          <div className={cls("cell")}>{image(shown[0], 0)}</div>
          <div className={cls("cell")} style={{ clipPath: `inset(0 ${100 - split}% 0 0)` }}>
            {image(shown[1], 1)}
          </div>
          <div className={cls("divider")} style={{ left: `${split}%` }} />
          {glass && lens(glass[0] * 100 < split ? shown[1] : shown[0])}
          {name(shown[1], { left: 8 })}
          {name(shown[0], { right: 8 })}
          <input
            className={cls(`compare ${looking.scale > 1 || loupe ? "foot" : ""}`)}
            type="range"
            min={0}
            max={100}
            step={0.5}
            value={split}
            aria-label="Slider between the two pictures"
            onChange={(e) => setSplit(Number(e.target.value))}
          />
        </>
      )}
      {flickers &&
        shown.map((p, k) => (
          <div key={k} className={cls("cell")} style={{ visibility: k === front ? "visible" : "hidden" }}>
            {image(p, k)}
            {k === front && lens(p)}
            {name(p, { left: 8 })}
          </div>
        ))}
      {way === "difference" && (
        <div className={cls("cell difference")} style={{ filter: `brightness(${gain})` }}>
          {image(shown[0], 0)}
          <img src={shown[1].url} alt={shown[1].alt} draggable={false} style={moved} className={crisp} />
        </div>
      )}
      <div className={cls("tools")} role="group" aria-label="How pictures are compared">
        {WAYS.map(([key, label]) => (
          <button key={key} aria-pressed={way === key} onClick={() => setWay(key)}>
            {label}
          </button>
        ))}
        <i />
        {flickers && (
          <button aria-pressed={still} onClick={() => setStill(!still)}>
            Hold
          </button>
        )}
        {way === "difference" &&
          DIFFERENCE_GAINS.map((g) => (
            <button key={g} aria-pressed={gain === g} onClick={() => setGain(g)}>
              {g} ×
            </button>
          ))}
        <button onClick={() => setLooking(FIT)} disabled={looking.scale === 1}>
          Fit
        </button>
        <button onClick={onePixel}>1 : 1</button>
        <button aria-pressed={loupe} onClick={() => setLoupe(!loupe)}>
          Loupe
        </button>
      </div>
    </div>
  );
}

interface LoupeProps {
  url: string;
  /** Where the pointer is in the frame, 0 to 1. */
  at: [number, number];
  looking: Looking;
  wide: number;
  aspect: number;
}

/** A glass over the picture that shows its pixels enlarged. */
function Loupe({ url, at, looking, wide, aspect }: LoupeProps) {
  const [x, y] = [(at[0] - looking.x) / looking.scale, (at[1] - looking.y) / looking.scale];
  const [w, h] = [wide * LOUPE_TIMES, (wide * LOUPE_TIMES) / aspect];
  return (
    <div
      className={cls("loupe")}
      aria-hidden
      style={{
        left: `${at[0] * 100}%`,
        top: `${at[1] * 100}%`,
        width: LOUPE_PX,
        height: LOUPE_PX,
        backgroundImage: `url("${url}")`,
        backgroundSize: `${w}px ${h}px`,
        backgroundPosition: `${LOUPE_PX / 2 - x * w}px ${LOUPE_PX / 2 - y * h}px`,
      }}
    />
  );
}
