import type { Change, Project } from "../api/client";

/** What an object has of a material gets a name of its own: that name, and the changes by which it does. */
export function setApart(
  project: Project,
  object: string,
  material: string,
): { name: string; changes: Change[] } {
  const apart = project.stage?.apart ?? [];
  const taken = new Set(apart.map((a) => a.name));
  const stem = `${material}, ${object}`.slice(0, 190);
  let name = stem;
  for (let k = 2; taken.has(name); k++) name = `${stem} ${k}`;
  const surface = project.stage?.surfaces?.[material];
  return {
    name,
    changes: [
      { part: "stage", at: ["apart"], value: [...apart, { object, material, name }] },
      ...(surface ? [{ part: "stage" as const, at: ["surfaces", name], value: surface }] : []),
    ],
  };
}

/** Whether a name is that of what one object alone has of a material. */
export const isApart = (project: Project, name: string) =>
  (project.stage?.apart ?? []).some((a) => a.name === name);
