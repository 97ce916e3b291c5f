import { useRef, useState } from "react";
import { Form } from "react-bootstrap";

import { api, type Plate, type Project } from "../api/client";
import { clamp, clockText } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import { classesOf } from "../ui/classes";
import type { Balancing } from "./useBalancing";
import styles from "./balance.module.css";

const cls = classesOf(styles);

interface Props {
  project: Project;
  /** The plates of this view, of all occasions. */
  plates: Plate[];
  shown: Plate | null;
  balancing: Balancing;
}

/** From one plate of the view to another along a line: daylight fades as at dusk, lamps come on on the way. */
export function DuskLine({ project, plates, shown, balancing }: Props) {
  const [ends, setEnds] = useState<[number | null, number | null]>([null, null]);
  const line = useRef<HTMLDivElement>(null);
  const byEv = [...plates].sort((a, b) => b.ev100 - a.ev100);
  const find = (id: number | null) => plates.find((p) => p.id === id);
  const first = find(ends[0]) ?? byEv[0];
  const second = find(ends[1]) ?? [...byEv].reverse().find((p) => p.id !== first?.id);
  const { share, go } = balancing.way;
  const at = (e: React.PointerEvent) => {
    const box = line.current!.getBoundingClientRect();
    return clamp((e.clientX - box.left) / box.width, 0, 1);
  };
  const move = (to: number) => first && second && go(first.id, second.id, clamp(to, 0, 1));
  const drag = useDrag({
    start: (e) => void move(at(e)),
    move: (e) => void move(at(e)),
    end: (e) => void move(at(e)),
    cancel: () => go(null, null, 0),
  });
  const name = (p: Plate) =>
    `${project.occasions?.find((o) => o.key === p.occasion)?.name ?? p.occasion}, ${p.name || p.quality} ${clockText(p.created)}`;
  return (
    <section aria-label="From day to night" className={cls("dusk")}>
      <h3>From day to night</h3>
      {!first || !second ? (
        <p className="quiet mb-0">
          Make a plate of this view by day and one by night: this leads from one to the other.
        </p>
      ) : (
        <>
          <div className={cls("dusk-ends")}>
            <img src={api.thumb(first.id)} alt={`From: ${name(first)}`} />
            <div
              ref={line}
              className={cls("dusk-line")}
              role="slider"
              tabIndex={0}
              aria-label="On the way from day to night"
              aria-valuemin={0}
              aria-valuemax={100}
              aria-valuenow={Math.round((share ?? 0) * 100)}
              onKeyDown={(e) => {
                const by = { ArrowLeft: -0.02, ArrowRight: 0.02, PageDown: -0.2, PageUp: 0.2 }[e.key];
                const to = by === undefined ? { Home: 0, End: 1 }[e.key] : (share ?? 0) + by;
                if (to === undefined) return;
                e.preventDefault();
                move(to);
              }}
              {...drag}
            >
              {share !== null && <span style={{ left: `${share * 100}%` }} />}
            </div>
            <img src={api.thumb(second.id)} alt={`To: ${name(second)}`} />
          </div>
          {([first, second] as const).map((end, k) => (
            <Form.Select
              key={k}
              size="sm"
              className="mt-1"
              aria-label={k === 0 ? "From the plate" : "To the plate"}
              value={end.id}
              onChange={(e) => {
                const id = Number(e.target.value);
                setEnds(k === 0 ? [id, second.id] : [first.id, id]);
                go(null, null, 0);
              }}
            >
              {plates.map((p) => (
                <option key={p.id} value={p.id}>
                  {name(p)}
                </option>
              ))}
            </Form.Select>
          ))}
          {share !== null && (
            <button className={cls("put-away")} onClick={() => go(null, null, 0)}>
              Back to {shown ? "the plate" : "the live picture"}
            </button>
          )}
        </>
      )}
    </section>
  );
}
