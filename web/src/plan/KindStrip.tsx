import { useRef } from "react";
import { Link } from "react-router";

import { api, type KindFigures } from "../api/client";
import { PolarCurve } from "../fixtures/PolarCurve";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import styles from "./KindStrip.module.css";

const cls = classesOf(styles);

interface Props {
  slug: string;
  kinds: KindFigures[];
  kind: string | null;
  choose: (key: string | null) => void;
}

/** The catalogue in reach: choose a kind, then click where it hangs. */
export function KindStrip({ slug, kinds, kind, choose }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const { adopt, notify } = useStore();
  return (
    <div className={cls("kinds")} role="group" aria-label="Fixture kinds">
      {kinds.map((k) => (
        <button
          key={k.kind.key}
          className={cls("kind")}
          aria-pressed={kind === k.kind.key}
          onClick={() => choose(kind === k.kind.key ? null : k.kind.key)}
          title={k.warnings.join(" ") || `${k.source_format}, ${Math.round(k.peak_cd)} cd`}
        >
          <PolarCurve figures={k} size={64} small />
          <b>{k.kind.name}</b>
          <span className="number quiet">
            {Math.round(k.lumens)} lm {spread(k)}
          </span>
        </button>
      ))}
      <div className="d-flex flex-column justify-content-center ps-1">
        <Link to={`/p/${slug}/catalogue`} className="mb-1">
          Catalogue
        </Link>
        <Button size="sm" variant="outline-dark" onClick={() => input.current?.click()}>
          Upload IES, LDT
        </Button>
        <input
          ref={input}
          type="file"
          hidden
          accept=".ies,.ldt,text/plain"
          aria-label="Profile file"
          onChange={async (e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (!file) return;
            try {
              const state = await api.uploadProfile(slug, file);
              adopt(state);
              const added = state.description.kinds!.at(-1)!;
              choose(added.key);
              notify(`${added.name} is in the catalogue. Click on the plan to place it.`);
            } catch (error) {
              notify((error as Error).message, "error");
            }
          }}
        />
      </div>
    </div>
  );
}

function spread(k: KindFigures): string {
  const [a, b] = k.beam_deg.map(Math.round);
  if (a >= 180 && b >= 180) return "diffuse";
  return a === b ? `${a}°` : `${a}°×${b}°`;
}
