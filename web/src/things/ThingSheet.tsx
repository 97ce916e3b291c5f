import { useState } from "react";
import { Form } from "react-bootstrap";

import { api, type FamilyLine, type Placement, type Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { classesOf } from "../ui/classes";
import { Button } from "../ui/Button";
import { countText } from "../ui/format";
import { NumberField } from "../ui/NumberField";
import { grouped, turned } from "./groups";
import { useHand } from "./hand";
import { Numbers } from "./Numbers";
import { copied, dropped, makeAnew, setField } from "./placing";
import { Repeats } from "./Repeats";
import { flagsRenamed, TakesPart } from "./TakesPart";
import { useThings } from "./useThings";
import styles from "./things.module.css";

const cls = classesOf(styles);
const AXES = ["x", "y", "z"] as const;

interface Props {
  slug: string;
  project: Project;
  hands: Hands;
  families: FamilyLine[];
  things: Placement[];
  /** Choose another object in its place. */
  replace: () => void;
}

/** The thing in hand: its numbers, where it stands, how often; and what can be done with it and those chosen with it. */
export function ThingSheet({ slug, project, hands, families, things, replace }: Props) {
  const { put } = useHand();
  const [thing] = things;
  const family = families.find((f) => f.key === thing.made?.family);
  const line = useThings(slug).find((l) => l.key === thing.key);
  const [alone, setAlone] = useState(false);
  const alike = (project.placements ?? []).filter((p) => p.asset === thing.asset);
  const many = things.length > 1 ? `${things.length} objects` : thing.name;
  const set = (what: string, field: keyof Placement, value: (p: Placement) => unknown) =>
    hands.changes(`${what} of ${many}`.slice(0, 120), setField(things, field, value), true);
  const turn = (by: number) => hands.changes(`Turn of ${many}`.slice(0, 120), turned(things, by), true);
  const bound = thing.group != null && things.every((p) => p.group === thing.group);
  return (
    <section aria-label={`Object ${thing.name}`}>
      <div className={cls("armed")}>
        {family && (
          <img src={api.familyPicture(family.key, thing.made!.parameters)} alt="" width={92} height={92} />
        )}
        <div>
          <input
            className={cls("name form-control form-control-sm")}
            aria-label="Name of the object"
            key={thing.name}
            defaultValue={thing.name}
            maxLength={80}
            onBlur={(e) => {
              const name = e.target.value.trim();
              if (name && name !== thing.name)
                hands.changes(
                  `Rename ${thing.name}`.slice(0, 120),
                  [...setField([thing], "name", () => name), ...flagsRenamed(project, thing.name, name)],
                  true,
                );
            }}
            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
          />
          <p className="quiet number mb-1">
            {things.length > 1 && `${things.length} chosen; `}
            {line && `${countText(line.triangles)} triangles`}
            {line?.count != null && line.count > 1 && `, ${line.count} times`}
          </p>
          <Button size="sm" variant="outline-dark" onClick={() => put({ chosen: [] })}>
            All objects
          </Button>
        </div>
        {family && (
          <Numbers
            family={family}
            values={thing.made!.parameters ?? {}}
            set={(values) => void makeAnew(slug, thing.key, family.key, values, alone)}
          />
        )}
      </div>
      {alike.length > 1 && (family?.parameters.length ?? 0) > 0 && (
        <Form.Check
          type="switch"
          id="thing-alone"
          label={`Other numbers for this one alone, not for all ${alike.length} alike`}
          checked={alone}
          onChange={(e) => setAlone(e.target.checked)}
        />
      )}
      <div className={cls("acts")}>
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() => {
            const { changes, keys } = copied(project, things);
            hands.changes(`Copy ${many}`.slice(0, 120), changes, true);
            put({ chosen: keys });
          }}
        >
          Copy
        </Button>
        <Button size="sm" variant="outline-dark" onClick={() => void dropped(slug, thing.key)}>
          Drop to the ground
        </Button>
        <Button size="sm" variant="outline-dark" onClick={replace}>
          Replace
        </Button>
        {alike.length > things.length && (
          <Button size="sm" variant="outline-dark" onClick={() => put({ chosen: alike.map((p) => p.key) })}>
            All {alike.length} alike
          </Button>
        )}
        {things.length > 1 && (
          <Button
            size="sm"
            variant="outline-dark"
            onClick={() => hands.changes(bound ? "Ungroup" : "Group", grouped(project, things, !bound), true)}
          >
            {bound ? "Ungroup" : "Group"}
          </Button>
        )}
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() => {
            hands.changes(
              `Take ${many} away`.slice(0, 120),
              things.map((p) => ({ part: "placement" as const, key: p.key, value: null })),
              true,
            );
            put({ chosen: [] });
          }}
        >
          Take away
        </Button>
      </div>
      <div className={cls("fields")}>
        <div className={cls("place")}>
          <span>Place, m</span>
          {AXES.map((axis, k) => (
            <NumberField
              key={axis}
              label={`${axis} of ${thing.name} in metres`}
              unit="m"
              value={thing.position![k]}
              min={-1e7}
              max={1e7}
              step={0.05}
              onChange={(v) => set("Place", "position", (p) => p.position!.with(k, v ?? 0))}
            />
          ))}
        </div>
        <label>
          <span>
            Turn <span className="quiet">°</span>
          </span>
          <span className={cls("turns")}>
            <Button
              size="sm"
              variant="outline-dark"
              aria-label="Turn by 15° to the left"
              onClick={() => turn(15)}
            >
              ↺
            </Button>
            <NumberField
              label={`Turn of ${thing.name} in degrees`}
              unit="°"
              value={thing.turn_deg ?? 0}
              min={-360}
              max={360}
              step={5}
              onChange={(v) => set("Turn", "turn_deg", () => v ?? 0)}
            />
            <Button
              size="sm"
              variant="outline-dark"
              aria-label="Turn by 15° to the right"
              onClick={() => turn(-15)}
            >
              ↻
            </Button>
          </span>
        </label>
        <label>
          <span>Scale</span>
          <NumberField
            label={`Scale of ${thing.name}`}
            value={thing.scale ?? 1}
            min={0.01}
            max={100}
            step={0.05}
            onChange={(v) => v && set("Scale", "scale", () => v)}
          />
        </label>
        {(project.layers ?? []).length > 0 && (
          <label>
            <span>Layer</span>
            <Form.Select
              size="sm"
              aria-label="Layer"
              value={thing.layer ?? ""}
              onChange={(e) => set("Layer", "layer", () => e.target.value || null)}
            >
              <option value="">none</option>
              {(project.layers ?? []).map((l) => (
                <option key={l.key} value={l.key}>
                  {l.name}
                </option>
              ))}
            </Form.Select>
          </label>
        )}
      </div>
      <div className={cls("switches")}>
        {(
          [
            ["mirrored", "Mirrored"],
            ["locked", "Locked in its place"],
            ["hidden", "Hidden"],
          ] as const
        ).map(([field, words]) => (
          <Form.Check
            key={field}
            type="switch"
            id={`thing-${field}`}
            label={words}
            checked={thing[field] ?? false}
            onChange={(e) => set(words, field, () => e.target.checked)}
          />
        ))}
      </div>
      <TakesPart project={project} things={things} hands={hands} />
      <Repeats slug={slug} thing={thing} hands={hands} />
    </section>
  );
}
