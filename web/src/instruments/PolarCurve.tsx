import type { KindFigures } from "../api/client";

/** Luminous intensity over angle, nadir down: C0-C180 drawn through, C90-C270 dashed. */
export function PolarCurve({
  figures,
  size = 150,
  small = false,
}: {
  figures: Pick<KindFigures, "gamma_deg" | "across_cd" | "along_cd" | "peak_cd"> & { kind: { name: string } };
  size?: number;
  small?: boolean;
}) {
  const r = size / 2 - (small ? 3 : 14);
  const point = (gamma: number, value: number) => {
    const a = (gamma * Math.PI) / 180;
    const d = (value / figures.peak_cd) * r;
    return `${(d * Math.sin(a)).toFixed(1)},${(d * Math.cos(a)).toFixed(1)}`;
  };
  const path = (values: number[]) => values.map((v, k) => point(figures.gamma_deg[k], v)).join(" ");
  return (
    <svg
      viewBox={`${-size / 2} ${-size / 2} ${size} ${size}`}
      width="100%"
      style={{ maxHeight: size, display: "block" }}
      role="img"
      aria-label={`Polar curve of ${figures.kind.name}, greatest intensity ${Math.round(figures.peak_cd)} candela`}
    >
      {!small &&
        [0.25, 0.5, 0.75, 1].map((k) => (
          <circle key={k} r={r * k} fill="none" stroke="#c4c4c4" strokeWidth="0.8" />
        ))}
      {!small &&
        Array.from({ length: 12 }, (_, k) => (
          <line
            key={k}
            x1="0"
            y1="0"
            x2={r * Math.sin((k * Math.PI) / 6)}
            y2={r * Math.cos((k * Math.PI) / 6)}
            stroke="#c4c4c4"
            strokeWidth="0.8"
          />
        ))}
      <polygon
        points={path(figures.across_cd)}
        fill="#b0501e"
        fillOpacity={small ? 0.75 : 0.16}
        stroke={small ? "none" : "#b0501e"}
        strokeWidth="1.8"
      />
      <polygon
        points={path(figures.along_cd)}
        fill={small ? "#e0a070" : "none"}
        fillOpacity="0.5"
        stroke={small ? "none" : "#1e1e1e"}
        strokeWidth="1"
        strokeDasharray="3 3"
      />
      {!small && (
        <text y={size / 2 - 2} fontSize="9" textAnchor="middle" fontFamily="var(--numbers)" fill="#5a5a5a">
          {Math.round(figures.peak_cd)} cd
        </text>
      )}
    </svg>
  );
}
