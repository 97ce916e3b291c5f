import { Form } from "react-bootstrap";

import type { Change, Placement, Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { classesOf } from "../ui/classes";
import styles from "./things.module.css";

const cls = classesOf(styles);

type Flags = NonNullable<NonNullable<Project["stage"]>["objects"]>[string];

const AS_EVER: Required<Flags> = {
  seen: true,
  in_reflections: true,
  casts_shadow: true,
  sends: true,
  receives: true,
  shadow_only: false,
};
const WORDS: [keyof Flags, string][] = [
  ["seen", "Seen by the lens"],
  ["in_reflections", "Seen in mirrors"],
  ["casts_shadow", "Casts a shadow"],
  ["sends", "Sends light on"],
  ["receives", "Takes light of others"],
  ["shadow_only", "Shows only the shadow on it"],
];

export const flagsOf = (project: Project, name: string): Required<Flags> => ({
  ...AS_EVER,
  ...project.stage?.objects?.[name],
});

/** Flags of things under their names; those that are as ever need none. */
export function flagged(project: Project, names: string[], patch: Partial<Flags>): Change[] {
  return names.flatMap((name): Change[] => {
    const flags = { ...flagsOf(project, name), ...patch };
    const plain = WORDS.every(([key]) => flags[key] === AS_EVER[key]);
    if (plain && !project.stage?.objects?.[name]) return [];
    return [
      plain
        ? { part: "stage", at: ["objects", name], away: true }
        : { part: "stage", at: ["objects", name], value: flags },
    ];
  });
}

/** Flags go along to the new name of a thing; other things of the old name keep theirs. */
export function flagsRenamed(project: Project, from: string, to: string): Change[] {
  const flags = project.stage?.objects?.[from];
  if (!flags) return [];
  const others = (project.placements ?? []).filter((p) => p.name === from).length > 1;
  const away: Change[] = others ? [] : [{ part: "stage", at: ["objects", from], away: true }];
  return [{ part: "stage", at: ["objects", to], value: flags }, ...away];
}

interface Props {
  project: Project;
  things: Placement[];
  hands: Hands;
}

/** How things take part in the picture: what sees them, what light they take, stop and send. */
export function TakesPart({ project, things, hands }: Props) {
  const names = [...new Set(things.map((p) => p.name))];
  const flags = flagsOf(project, names[0]);
  const unusual = WORDS.filter(([key]) => flags[key] !== AS_EVER[key]).length;
  return (
    <details>
      <summary>
        How it takes part {unusual > 0 && <span className="quiet number">({unusual} unlike others)</span>}
      </summary>
      <div className={cls("switches")}>
        {WORDS.map(([key, words]) => (
          <Form.Check
            key={key}
            type="switch"
            id={`flag-${key}`}
            label={words}
            checked={flags[key]}
            onChange={(e) => {
              const changes = flagged(project, names, { [key]: e.target.checked });
              hands.changes(`${words}: ${e.target.checked ? "yes" : "no"}`, changes, true);
            }}
          />
        ))}
      </div>
    </details>
  );
}
