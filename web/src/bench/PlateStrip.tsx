import { api, type Plate } from "../api/client";
import { clockText } from "../ui/format";
import type { LivePicture } from "./useBench";

interface Props {
  live: LivePicture;
  plates: Plate[];
  chosen: number | null;
  other: number | null;
  choose: (id: number | null) => void;
  label: string;
}

/** The live picture and earlier plates of this view and occasion. */
export function PlateStrip({ live, plates, chosen, other, choose, label }: Props) {
  return (
    <div className="strip" role="group" aria-label="Earlier plates">
      <button className="strip-plate" aria-pressed={chosen === null} onClick={() => choose(null)}>
        {live.url ? <img src={live.url} alt="Live picture" /> : <div className="blank" />}
        <span>
          now <span className="number">live</span>
        </span>
      </button>
      {plates.map((p) => (
        <button
          key={p.id}
          className={`strip-plate ${other === p.id ? "other" : ""}`}
          aria-pressed={chosen === p.id}
          onClick={() => choose(p.id)}
          title={`${p.width} × ${p.height}, made in ${Math.round(p.seconds)} s`}
        >
          <img src={api.thumb(p.id)} alt={`${p.quality} of ${label}`} loading="lazy" />
          <span>
            {p.quality} <span className="number">{clockText(p.created)}</span>
          </span>
        </button>
      ))}
      {plates.length === 0 && (
        <p className="quiet m-0 align-self-center">
          No plate yet. “Make plate” keeps this picture with its settings.
        </p>
      )}
    </div>
  );
}
