import { useRef } from "react";

interface Props {
  angles: number[];
  across: number[];
  along: number[] | null;
  setAcross: (values: number[]) => void;
  setAlong: (values: number[]) => void;
}

const SIZE = 300;
const R = SIZE / 2 - 16;

/** A polar curve to bend: the right half is the plane C0, the left half C90. */
export function CurveEditor({ angles, across, along, setAcross, setAlong }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef<number | null>(null);
  const left = along ?? across;
  const place = (angle: number, value: number, side: 1 | -1) => {
    const a = (angle * Math.PI) / 180;
    return [side * value * R * Math.sin(a), value * R * Math.cos(a)];
  };
  const change = (side: 1 | -1, index: number, value: number) => {
    const set = side === 1 || !along ? setAcross : setAlong;
    const values = side === 1 || !along ? across : along;
    set(values.map((v, k) => (k === index ? Math.min(Math.max(Number(value.toFixed(3)), 0), 1) : v)));
  };
  const pull = (e: React.PointerEvent, side: 1 | -1, index: number) => {
    if (held.current !== e.pointerId) return;
    const matrix = svg.current!.getScreenCTM()!.inverse();
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(matrix);
    const a = (angles[index] * Math.PI) / 180;
    change(side, index, (side * p.x * Math.sin(a) + p.y * Math.cos(a)) / R);
  };
  const outline = (values: number[], side: 1 | -1) =>
    values
      .map((v, k) =>
        place(angles[k], v, side)
          .map((n) => n.toFixed(1))
          .join(","),
      )
      .join(" ");
  return (
    <svg
      ref={svg}
      viewBox={`${-SIZE / 2} ${-SIZE / 2} ${SIZE} ${SIZE}`}
      width="100%"
      style={{ maxWidth: 340, display: "block", touchAction: "none" }}
      role="group"
      aria-label="Curve of the distribution"
    >
      {[0.25, 0.5, 0.75, 1].map((k) => (
        <circle key={k} r={R * k} fill="none" stroke="#c4c4c4" />
      ))}
      {Array.from({ length: 12 }, (_, k) => (
        <line
          key={k}
          x2={R * Math.sin((k * Math.PI) / 6)}
          y2={R * Math.cos((k * Math.PI) / 6)}
          stroke="#d2d2d2"
        />
      ))}
      <polygon
        points={`0,0 ${outline(across, 1)}`}
        fill="#b0501e"
        fillOpacity="0.16"
        stroke="#b0501e"
        strokeWidth="1.6"
      />
      <polygon
        points={`0,0 ${outline(left, -1)}`}
        fill="#b0501e"
        fillOpacity="0.16"
        stroke={along ? "#1e1e1e" : "#b0501e"}
        strokeWidth="1.6"
        strokeDasharray={along ? "4 3" : undefined}
      />
      {([1, -1] as const).map((side) =>
        angles.map((angle, k) => {
          const values = side === 1 ? across : left;
          const [x, y] = place(angle, values[k], side);
          return (
            <circle
              key={`${side} ${angle}`}
              className="curve-point"
              cx={x}
              cy={y}
              r="7"
              tabIndex={side === 1 || along ? 0 : -1}
              role="slider"
              aria-label={`${side === 1 ? "C0" : "C90"}, ${angle} degrees`}
              aria-valuemin={0}
              aria-valuemax={100}
              aria-valuenow={Math.round(values[k] * 100)}
              onPointerDown={(e) => {
                if (e.button !== 0) return;
                e.currentTarget.setPointerCapture(e.pointerId);
                held.current = e.pointerId;
              }}
              onPointerMove={(e) => pull(e, side, k)}
              onPointerUp={() => (held.current = null)}
              onPointerCancel={() => (held.current = null)}
              onKeyDown={(e) => {
                const by = { ArrowUp: 0.02, ArrowRight: 0.02, ArrowDown: -0.02, ArrowLeft: -0.02 }[e.key];
                if (by === undefined) return;
                e.preventDefault();
                change(side, k, values[k] + by);
              }}
            />
          );
        }),
      )}
      <text x={R - 4} y={-R + 6} fontSize="10" textAnchor="end" fill="#5a5a5a">
        C0
      </text>
      <text x={-R + 4} y={-R + 6} fontSize="10" fill="#5a5a5a">
        {along ? "C90" : "mirrored"}
      </text>
    </svg>
  );
}
