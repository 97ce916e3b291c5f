import { Form } from "react-bootstrap";

import { type Done, useStore } from "../state/store";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { NumberField } from "../ui/NumberField";
import { changedLimit, type Limit, limitInWords } from "./treatments";
import styles from "./finish.module.css";

const cls = classesOf(styles);

/** What a limit lays in the picture by hand. */
export type Laying = "surfaces" | "objects" | "gradient" | "brush" | "away";

interface Props {
  limit: Limit | null;
  groups: string[];
  change: (limit: Limit | null, done: Done) => void;
  laying: Laying | null;
  lay: (what: Laying | null) => void;
  shown: boolean;
  show: (on: boolean) => void;
}

/** What films call the cut-outs laid into them, all together. */
const CUT_OUTS = "Cut-outs";

type SpanName = "distance_m" | "height_m" | "stops";
const SPANS: {
  name: SpanName;
  label: string;
  unit: string;
  at_first: { low: number; high: number; soft: number };
}[] = [
  { name: "distance_m", label: "Distance", unit: "m", at_first: { low: 0, high: 5, soft: 2 } },
  { name: "height_m", label: "Height", unit: "m", at_first: { low: 0, high: 2, soft: 0.5 } },
  { name: "stops", label: "Tones", unit: "stops", at_first: { low: -3, high: 0, soft: 1 } },
];
const LAID: [Laying, string][] = [
  ["surfaces", "Surface"],
  ["objects", "Thing"],
  ["gradient", "Gradient"],
  ["brush", "Brush"],
];

/** Where a treatment holds: pointed at, laid and brushed in the picture, or by its measures. */
export function LimitEditor({ limit, groups, change, laying, lay, shown, show }: Props) {
  const stood = useStore((s) => (s.saved?.description.cutouts ?? []).length > 0);
  const put = (patch: Partial<Limit>, done: Done = true) => change(changedLimit(limit, patch), done);
  const named = [
    ...(limit?.surfaces ?? []).map((name) => ["surfaces", name] as const),
    ...(limit?.objects ?? []).map((name) => ["objects", name] as const),
    ...(limit?.groups ?? []).map((name) => ["groups", name] as const),
  ];
  return (
    <div className={cls("where")} role="group" aria-label="Where it holds">
      <span className="quiet">Where: {limitInWords(limit)}</span>
      <div className={cls("tools")} role="group" aria-label="Lay in the picture">
        {LAID.map(([what, word]) => (
          <Button
            key={what}
            size="sm"
            variant={laying === what ? "dark" : "outline-dark"}
            aria-pressed={laying === what}
            onClick={() => lay(laying === what ? null : what)}
          >
            {word}
          </Button>
        ))}
        {limit?.strokes?.length ? (
          <>
            <Button
              size="sm"
              variant={laying === "away" ? "dark" : "outline-dark"}
              aria-pressed={laying === "away"}
              onClick={() => lay(laying === "away" ? null : "away")}
            >
              Brush away
            </Button>
            <Button size="sm" variant="link" onClick={() => put({ strokes: limit.strokes!.slice(0, -1) })}>
              Last stroke off
            </Button>
          </>
        ) : null}
        {limit?.gradient && (
          <Button size="sm" variant="link" onClick={() => put({ gradient: null })}>
            No gradient
          </Button>
        )}
      </div>
      {laying && (
        <p className="quiet mb-1" role="status">
          {
            {
              surfaces: "Point at a surface in the picture.",
              objects: "Point at a thing in the picture.",
              gradient: "Drag over the picture from where it begins to where it is whole.",
              brush: "Brush over the picture; with Shift the stroke is twice as wide.",
              away: "Brush over the picture to take away.",
            }[laying]
          }
        </p>
      )}
      {named.length > 0 && (
        <div className={cls("names")}>
          {named.map(([part, name]) => (
            <button
              key={`${part} ${name}`}
              type="button"
              title={`Take ${name} out`}
              onClick={() => put({ [part]: limit![part]!.filter((n) => n !== name) })}
            >
              {name} ×
            </button>
          ))}
        </div>
      )}
      {SPANS.map(({ name, label, unit }) => {
        const span = limit?.[name];
        return (
          span && (
            <div key={name} className={cls("span")}>
              <span>{label}</span>
              {(["low", "high", "soft"] as const).map((end) => (
                <NumberField
                  key={end}
                  label={`${label}, ${{ low: "from", high: "to", soft: "edge" }[end]}`}
                  value={span[end] ?? 0}
                  unit={unit}
                  min={end === "soft" ? 0 : end === "high" ? span.low : -1000}
                  max={end === "low" ? span.high : 100000}
                  onChange={(v) => v !== null && put({ [name]: { ...span, [end]: v } })}
                />
              ))}
              <button
                type="button"
                className="btn btn-sm btn-link p-0"
                aria-label={`No ${label.toLowerCase()}`}
                onClick={() => put({ [name]: null })}
              >
                ×
              </button>
            </div>
          )
        );
      })}
      {limit?.hues && (
        <div className={cls("span")}>
          <span>Hues</span>
          {(["middle_deg", "width_deg", "soft_deg"] as const).map((end) => (
            <NumberField
              key={end}
              label={`Hues, ${{ middle_deg: "middle", width_deg: "width", soft_deg: "edge" }[end]}`}
              value={limit.hues![end] ?? 0}
              unit="°"
              min={0}
              max={end === "soft_deg" ? 180 : 360}
              onChange={(v) => v !== null && put({ hues: { ...limit.hues!, [end]: v } })}
            />
          ))}
          <button
            type="button"
            className="btn btn-sm btn-link p-0"
            aria-label="No hues"
            onClick={() => put({ hues: null })}
          >
            ×
          </button>
        </div>
      )}
      <div className={cls("names")} role="group" aria-label="Narrow it by">
        {SPANS.filter(({ name }) => !limit?.[name]).map(({ name, label, at_first }) => (
          <button key={name} type="button" onClick={() => put({ [name]: at_first })}>
            {label}
          </button>
        ))}
        {stood && !limit?.objects?.includes(CUT_OUTS) && (
          <button type="button" onClick={() => put({ objects: [...(limit?.objects ?? []), CUT_OUTS] })}>
            {CUT_OUTS}
          </button>
        )}
        {!limit?.hues && (
          <button
            type="button"
            onClick={() => put({ hues: { middle_deg: 100, width_deg: 60, soft_deg: 20 } })}
          >
            Hues
          </button>
        )}
      </div>
      {groups.length > 0 && (
        <Form.Select
          size="sm"
          className="mb-1"
          aria-label="Where a light falls"
          value=""
          onChange={(e) => put({ groups: [...(limit?.groups ?? []), e.target.value] })}
        >
          <option value="">Where a light falls…</option>
          {groups
            .filter((group) => !limit?.groups?.includes(group))
            .map((group) => (
              <option key={group} value={group}>
                {group}
              </option>
            ))}
        </Form.Select>
      )}
      {limit && (
        <div className={cls("tools")} style={{ columnGap: 14 }}>
          <Form.Check
            type="switch"
            id="limit-elsewhere"
            label="Turned over"
            checked={limit.elsewhere ?? false}
            onChange={(e) => put({ elsewhere: e.target.checked })}
          />
          <Form.Check
            type="switch"
            id="limit-shown"
            label="Show in the picture"
            checked={shown}
            onChange={(e) => show(e.target.checked)}
          />
        </div>
      )}
    </div>
  );
}
