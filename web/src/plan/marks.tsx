/** What plans have drawn on them alike: walls, a lens by its angle, a bar of metres. */

/** Segments as the server sends them (x, y of both ends, one after the other) as one path; Y is up on the stage. */
export function pathOfSegments(s: readonly number[]): string {
  const parts: string[] = [];
  for (let k = 0; k < s.length; k += 4) parts.push(`M${s[k]} ${-s[k + 1]}L${s[k + 2]} ${-s[k + 3]}`);
  return parts.join("");
}

interface LensProps {
  position: readonly number[];
  target: readonly number[];
  focalMm: number;
  filmMm: number;
  /** How far its angle is drawn, in metres. */
  reach: number;
  unit: number;
}

export function LensMark({ position, target, focalMm, filmMm, reach, unit }: LensProps) {
  const [x, y] = position;
  const a = Math.atan2(target[1] - y, target[0] - x);
  const half = Math.atan(filmMm / 2 / focalMm);
  const p = (t: number) => `${x + reach * Math.cos(t)},${-(y + reach * Math.sin(t))}`;
  return (
    <polygon
      points={`${x},${-y} ${p(a - half)} ${p(a + half)}`}
      fill="#66761a"
      fillOpacity="0.28"
      stroke="#66761a"
      strokeWidth={unit}
      pointerEvents="none"
    />
  );
}

/** A bar of whole metres, about a seventh of the drawing, that begins at a place of it. */
export function ScaleBar({ wide, at, unit }: { wide: number; at: readonly [number, number]; unit: number }) {
  const length = [0.5, 1, 2, 5, 10, 20, 50].find((l) => l > wide / 7) ?? 100;
  const [x, y] = at;
  return (
    <g pointerEvents="none">
      <path
        d={`M${x} ${y - unit * 4}v${unit * 8}M${x} ${y}h${length}M${x + length} ${y - unit * 4}v${unit * 8}`}
        stroke="#1e1e1e"
        strokeWidth={unit * 1.3}
      />
      <text x={x + length + unit * 6} y={y + unit * 4} fontSize={unit * 12} fontFamily="var(--numbers)">
        {length} m
      </text>
    </g>
  );
}
