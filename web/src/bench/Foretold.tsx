import { useState } from "react";

import { api, type Quality } from "../api/client";
import { useStore } from "../state/store";
import { timeLeft } from "../ui/format";
import { classesOf } from "../ui/classes";
import styles from "./PlateStrip.module.css";

const cls = classesOf(styles);

interface Props {
  slug: string;
  view: string;
  occasion: string;
  quality: Quality;
}

type Told = Awaited<ReturnType<typeof api.foretold>>;

/** How long the next plate will take, by a short run of its own picture, and what parts of the scene add to that. */
export function Foretold({ slug, view, occasion, quality }: Props) {
  const revision = useStore((s) => s.saved?.revision);
  const about = JSON.stringify([slug, view, occasion, quality, revision]);
  const [told, setTold] = useState<{ about: string; is: Told | "asked" } | null>(null);
  const now = told?.about === about ? told.is : null;
  const ask = async () => {
    setTold({ about, is: "asked" });
    try {
      setTold({ about, is: await api.foretold(slug, { view, occasion, quality, parts: true }) });
    } catch (error) {
      setTold(null);
      useStore.getState().notify((error as Error).message, "error");
    }
  };
  return (
    <div className={cls("foretold")} aria-live="polite">
      {now === null ? (
        <button onClick={() => void ask()} title="Measured by a short run of this picture">
          How long will a {quality} take?
        </button>
      ) : now === "asked" ? (
        <span>Trying a few of its tiles…</span>
      ) : (
        <>
          <b>
            {quality}: about {timeLeft(now.seconds)}
          </b>
          <span className="number">
            {now.width} × {now.height}, {now.samples.toFixed(0)} samples
          </span>
          {now.parts
            .filter((p) => p.seconds > 0.02 * now.seconds)
            .map((p) => (
              <span key={p.name}>
                {p.name} <span className="number">+{timeLeft(p.seconds)}</span>
              </span>
            ))}
        </>
      )}
    </div>
  );
}
