import { useEffect, useState } from "react";

import { api, type SkyFigures, type SkyLine } from "../api/client";
import { lux } from "../ui/format";
import { queries, useServer } from "../state/server";
import { classesOf } from "../ui/classes";
import styles from "./SkyPicker.module.css";

const cls = classesOf(styles);

const NONE: SkyLine[] = [];

interface Props {
  azimuth: number;
  altitude: number;
  chosen: string;
  choose: (sky: SkyLine) => void;
}

/** The skies of the catalogue as they look under the sun of the hour, each with what it gives. */
export function SkyPicker({ azimuth, altitude, chosen, choose }: Props) {
  const lines = useServer(["skies of the catalogue"], api.skyCatalogue, { fixed: true }) ?? NONE;
  const [figures, setFigures] = useState<Record<string, SkyFigures>>({});
  const a = Math.round(azimuth / 10) * 10;
  const h = Math.round(altitude / 2) * 2;
  useEffect(() => {
    let alive = true;
    // One after the other: the picture on the easel is waited for, too.
    void (async () => {
      for (const line of lines) {
        if (!alive) return;
        const made = await queries
          .fetchQuery({
            queryKey: ["sky", line.key, a, h],
            queryFn: () => api.skyFigures(line.key, a, h),
            staleTime: Infinity,
          })
          .catch(() => null);
        if (made && alive) setFigures((old) => ({ ...old, [line.key]: made }));
      }
    })();
    return () => {
      alive = false;
    };
  }, [lines, a, h]);
  return (
    <div className={cls("skies")} role="radiogroup" aria-label="Skies of the catalogue">
      {lines.map((line) => {
        const seen = figures[line.key];
        return (
          <button
            key={line.key}
            role="radio"
            aria-checked={line.name === chosen}
            className="sky"
            title={
              seen ? `lets ${Math.round(seen.sun_share * 100)} % of the sun by, here and now` : undefined
            }
            onClick={() => choose(line)}
          >
            {seen ? <img src={seen.picture} alt="" width={74} height={74} /> : <i className={cls("round")} />}
            <b>{line.name}</b>
            <span className="number quiet">
              {seen ? (
                <>
                  level {lux(seen.horizontal_lx)}
                  <br />
                  upright {lux(seen.vertical_lx)}
                </>
              ) : (
                "…"
              )}
            </span>
          </button>
        );
      })}
    </div>
  );
}
