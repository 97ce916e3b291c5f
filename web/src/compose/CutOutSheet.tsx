import { Form } from "react-bootstrap";

import type { CutOut, CutOutStanding, Occasion, Project, View } from "../api/client";
import type { LiveHeader } from "../api/live";
import type { Hands } from "../bench/useBench";
import { placeThing } from "../things/placing";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { Value } from "../ui/Value";
import { copied, setField, turnOf } from "./cutouts";
import { useCutOutHand } from "./hand";
import { ShadowDrawing } from "./ShadowDrawing";
import styles from "./compose.module.css";

const cls = classesOf(styles);
const MANNERS: [NonNullable<CutOut["manner"]>, string][] = [
  ["lit", "In its light"],
  ["silhouette", "Silhouette"],
  ["wash", "Wash of one tone"],
];
const percent = (v: number) => `${Math.round(v * 100)} %`;
const parsePercent = (text: string) => {
  const v = Number(text.replace("%", "").replace(",", ".").trim());
  return Number.isFinite(v) && text.trim() ? v / 100 : null;
};

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  hands: Hands;
  header: LiveHeader | null;
  /** Those in hand, of which the first shows its settings. */
  cutouts: CutOut[];
  standing: CutOutStanding | null;
}

/** The cut-out in hand: how it stands to lens and sun, its shadows, and what can be done with it. */
export function CutOutSheet({ slug, project, view, occasion, hands, header, cutouts, standing }: Props) {
  const { put } = useCutOutHand();
  const [first] = cutouts;
  const many = cutouts.length > 1 ? `${cutouts.length} cut-outs` : first.name;
  const alike = (project.cutouts ?? []).filter(
    (c) =>
      c.view === view.key &&
      c.picture === first.picture &&
      JSON.stringify(c.made) === JSON.stringify(first.made),
  );
  const set = (
    what: string,
    field: keyof CutOut,
    value: (c: CutOut) => unknown,
    done: boolean | "soon" = true,
  ) => hands.changes(`${what} of ${many}`.slice(0, 120), setField(cutouts, field, value), done);
  const ahead = Math.atan2(view.target[1] - view.position[1], view.target[0] - view.position[0]);
  const mirror = () => set("Mirroring", "mirrored", (c) => !c.mirrored);
  const onStage = async () => {
    if (!first.made) return;
    const key = await placeThing(slug, {
      family: first.made.family,
      parameters: first.made.parameters ?? {},
      position: first.place,
      normal: [0, 0, 1],
      turn_deg: first.turn_deg ?? 0,
    });
    if (!key) return;
    hands.changes(
      `${first.name} stands on the stage`.slice(0, 120),
      [{ part: "cutout", key: first.key, value: null }],
      true,
    );
    put({ chosen: [] });
  };
  return (
    <section aria-label={`Cut-out ${first.name}`}>
      <input
        className="form-control form-control-sm mb-1"
        aria-label="Name of the cut-out"
        key={first.name}
        defaultValue={first.name}
        maxLength={80}
        onBlur={(e) => {
          const name = e.target.value.trim();
          if (name && name !== first.name)
            hands.changes(
              `Rename ${first.name}`.slice(0, 120),
              setField([first], "name", () => name),
              true,
            );
        }}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      <p className="quiet number mb-1">
        {cutouts.length > 1 && `${cutouts.length} chosen; `}
        {standing && `${standing.distance_m.toFixed(1)} m from the lens`}
      </p>
      {standing?.words.map((w) => (
        <p key={w} className={cls("words")} role="status">
          {w}{" "}
          <Button size="sm" variant="outline-dark" onClick={mirror}>
            Mirror
          </Button>
        </p>
      ))}
      <ShadowDrawing
        {...{ view, project, header }}
        cutout={first}
        turn={(to, done) => set("Turn", "turn_deg", () => turnOf(to), done)}
      />
      <Value
        label="Cast shadow"
        value={first.cast ?? 1}
        min={0}
        max={1}
        step={0.05}
        format={percent}
        parse={parsePercent}
        onChange={(v, done) => set("Cast shadow", "cast", () => v, done as boolean)}
      />
      <Value
        label="Contact shadow"
        value={first.contact ?? 0.7}
        min={0}
        max={1}
        step={0.05}
        format={percent}
        parse={parsePercent}
        onChange={(v, done) => set("Contact shadow", "contact", () => v, done as boolean)}
      />
      <Value
        label="Lighter, darker"
        value={first.level_stops ?? 0}
        min={-3}
        max={3}
        step={0.1}
        unit="stops"
        onChange={(v, done) => set("Level", "level_stops", () => v, done as boolean)}
      />
      <Value
        label="Opacity"
        value={first.opacity ?? 1}
        min={0.05}
        max={1}
        step={0.05}
        format={percent}
        parse={parsePercent}
        onChange={(v, done) => set("Opacity", "opacity", () => v, done as boolean)}
      />
      <div className={cls("acts")}>
        <select
          className="form-select form-select-sm w-auto"
          aria-label="How it is drawn"
          value={first.manner ?? "lit"}
          onChange={(e) => set("Manner", "manner", () => e.target.value)}
        >
          {MANNERS.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
        {first.manner === "wash" && (
          <input
            type="color"
            aria-label="Colour of the wash"
            value={first.tone ?? "#4a4640"}
            onChange={(e) => set("Tone", "tone", () => e.target.value, "soon")}
          />
        )}
        <Form.Check
          type="switch"
          id="cutout-mirrored"
          label="Mirrored"
          checked={!!first.mirrored}
          onChange={mirror}
        />
        <Form.Check
          type="switch"
          id="cutout-locked"
          label="Locked"
          checked={!!first.locked}
          onChange={() => set("Lock", "locked", () => !first.locked)}
        />
      </div>
      <div className={cls("acts")}>
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() => {
            const { changes, keys } = copied(project, cutouts, [Math.sin(ahead), -Math.cos(ahead), 0]);
            hands.changes(`Copy ${many}`.slice(0, 120), changes, true);
            put({ chosen: keys });
          }}
        >
          Copy
        </Button>
        {alike.length > cutouts.length && (
          <Button size="sm" variant="outline-dark" onClick={() => put({ chosen: alike.map((c) => c.key) })}>
            All {alike.length} alike
          </Button>
        )}
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() => {
            set(`Away at ${occasion.name}`, "hidden_at", (c) => [...(c.hidden_at ?? []), occasion.key]);
            put({ chosen: [] });
          }}
        >
          Not at {occasion.name}
        </Button>
        {first.made && (
          <Button size="sm" variant="outline-dark" onClick={() => void onStage()}>
            Stand it on the stage
          </Button>
        )}
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() => {
            hands.changes(
              `Take ${many} away`.slice(0, 120),
              cutouts.map((c) => ({ part: "cutout" as const, key: c.key, value: null })),
              true,
            );
            put({ chosen: [] });
          }}
        >
          Take away
        </Button>
        <Button size="sm" variant="outline-dark" onClick={() => put({ chosen: [] })}>
          All cut-outs
        </Button>
      </div>
    </section>
  );
}
