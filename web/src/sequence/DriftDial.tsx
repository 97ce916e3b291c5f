import { useRef } from "react";

import type { Sequence } from "../api/client";
import type { Done } from "../state/store";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import styles from "./sequence.module.css";

const cls = classesOf(styles);
/** The rim of the dial stands for so many metres. */
const RIM_M = 6000;
const STEP_M = 100;

interface Props {
  drift: [number, number];
  change: (label: string, patch: Partial<Sequence>, done: Done) => void;
}

/** How far the clouds go while the sequence lasts, as an arrow from the middle of a compass: north is up. */
export function DriftDial({ drift, change }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const [east, north] = drift;
  const put = (to: [number, number], done: Done) => change("Drift of clouds", { drift_m: to }, done);
  const at = (e: React.PointerEvent): [number, number] => {
    const r = svg.current!.getBoundingClientRect();
    const x = ((e.clientX - r.left) / r.width) * 2 - 1;
    const y = 1 - ((e.clientY - r.top) / r.height) * 2;
    const far = Math.max(Math.hypot(x, y), 1);
    const metres = (v: number) => Math.round(((v / far) * RIM_M) / STEP_M) * STEP_M;
    return [metres(x), metres(y)];
  };
  const drag = useDrag({
    start: (e) => put(at(e), false),
    move: (e) => put(at(e), false),
    end: (e) => put(at(e), true),
    cancel: () => put(drift, false),
  });
  const onKey = (e: React.KeyboardEvent) => {
    const by = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    if (!by) return;
    e.preventDefault();
    const far = e.shiftKey ? 5 * STEP_M : STEP_M;
    put([east + by[0] * far, north + by[1] * far], "soon");
  };
  const [x, y] = [(east / RIM_M) * 46, (-north / RIM_M) * 46];
  return (
    <div className={cls("drift")}>
      <svg
        ref={svg}
        viewBox="-50 -50 100 100"
        role="application"
        tabIndex={0}
        aria-label={`Drift of clouds: ${east} m east, ${north} m north`}
        onKeyDown={onKey}
        {...drag}
      >
        <circle r="46" className={cls("dial")} />
        <circle r="23" className={cls("dial inner")} />
        <text y="-38" textAnchor="middle" className={cls("word")}>
          N
        </text>
        <line x2={x} y2={y} className={cls("drawn")} />
        <circle cx={x} cy={y} r="5" className={cls("grip")} />
      </svg>
      <span>
        Clouds drift <b className="number">{(Math.hypot(east, north) / 1000).toFixed(1)} km</b> over the whole
        of it.
      </span>
    </div>
  );
}
