import { memo } from "react";

import type { Fixture } from "../api/client";

export type Grip = "position" | "aim";

/** What is done with the symbol of a fixture. */
export interface SymbolActs {
  grab: (e: React.PointerEvent, fixture: Fixture, grip: Grip) => void;
  focus: (fixture: Fixture) => void;
  key: (e: React.KeyboardEvent, fixture: Fixture) => void;
}

interface SymbolProps {
  fixture: Fixture;
  body: string;
  name: string;
  lit: boolean;
  unit: number;
  selected: boolean;
  /** Stays the same while the plan is open, so that only what changes is drawn anew. */
  acts: SymbolActs;
}

/** A drafting symbol by the kind of body; the dot of the aim when selected. */
export const FixtureSymbol = memo(function FixtureSymbol(props: SymbolProps) {
  const { fixture, body, name, lit, unit, selected, acts } = props;
  const [x, y] = fixture.position;
  const r = unit * 8;
  const fill = lit ? "#fff" : "#d0d0d0";
  const stroke = selected ? "#66761a" : "#1e1e1e";
  const width = unit * (selected ? 2 : 1.1);
  const [ax, ay] = fixture.aim;
  const tilted = Math.hypot(ax - x, ay - y) > 0.05;
  return (
    <g>
      {(selected || tilted) && (
        <line
          x1={x}
          y1={-y}
          x2={ax}
          y2={-ay}
          stroke={stroke}
          strokeWidth={unit}
          strokeDasharray={`${unit * 3}`}
        />
      )}
      {selected && (
        <rect
          x={ax - unit * 5}
          y={-ay - unit * 5}
          width={unit * 10}
          height={unit * 10}
          fill="#66761a"
          stroke="#fff"
          strokeWidth={unit}
          style={{ cursor: "move" }}
          onPointerDown={(e) => acts.grab(e, fixture, "aim")}
          transform={tilted ? undefined : `translate(${unit * 20} 0)`}
        />
      )}
      <g
        tabIndex={-1}
        role="button"
        data-fixture={fixture.key}
        aria-label={`${name} at ${x.toFixed(2)}, ${y.toFixed(2)} m, group ${fixture.group}${lit ? "" : ", off"}`}
        aria-pressed={selected}
        style={{ cursor: "grab" }}
        onPointerDown={(e) => acts.grab(e, fixture, "position")}
        onFocus={() => acts.focus(fixture)}
        onKeyDown={(e) => acts.key(e, fixture)}
      >
        {body === "line" ? (
          <rect
            x={x - unit * 16}
            y={-y - unit * 3}
            width={unit * 32}
            height={unit * 6}
            fill={fill}
            stroke={stroke}
            strokeWidth={width}
            transform={`rotate(${-(fixture.turn_deg ?? 0)} ${x} ${-y})`}
          />
        ) : (
          <circle cx={x} cy={-y} r={r} fill={fill} stroke={stroke} strokeWidth={width} />
        )}
        {body === "pendant" && (
          <path d={`M${x - r} ${-y}h${2 * r}M${x} ${-y - r}v${2 * r}`} stroke={stroke} strokeWidth={width} />
        )}
        {body === "downlight" && (
          <circle
            cx={x}
            cy={-y}
            r={r * 0.45}
            fill={lit ? "#b0501e" : "none"}
            stroke={stroke}
            strokeWidth={width}
          />
        )}
        {body === "washer" && (
          <path
            d={`M${x - r} ${-y}a${r} ${r} 0 0 1 ${2 * r} 0z`}
            fill={stroke}
            transform={`rotate(${-(fixture.turn_deg ?? 0)} ${x} ${-y})`}
          />
        )}
        {body === "table" && (
          <rect x={x - r * 0.4} y={-y - r * 0.4} width={r * 0.8} height={r * 0.8} fill={stroke} />
        )}
        {body === "lantern" && (
          <path
            d={`M${x - r * 0.7} ${-y - r * 0.7}l${r * 1.4} ${r * 1.4}m0 ${-r * 1.4}l${-r * 1.4} ${r * 1.4}`}
            stroke={stroke}
            strokeWidth={width}
          />
        )}
      </g>
    </g>
  );
});
