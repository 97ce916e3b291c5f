import type { Change, Placement, Project } from "../api/client";
import { freeKey } from "../ui/format";
import { round, setField } from "./placing";

/** A thing that is taken in hand brings those of its group along: their keys, its own first. */
export function withGroup(things: Placement[], key: string): string[] {
  const group = things.find((p) => p.key === key)?.group;
  return [key, ...things.filter((p) => group && p.group === group && p.key !== key).map((p) => p.key)];
}

/** Bind things to one group, or let them go. */
export function grouped(project: Project, things: Placement[], on: boolean): Change[] {
  const taken = new Set((project.placements ?? []).flatMap((p) => (p.group ? [p.group] : [])));
  const group = on ? freeKey("group", taken) : null;
  return setField(things, "group", () => group);
}

const wrapped = (degrees: number) => ((((degrees + 180) % 360) + 360) % 360) - 180;

/** Turn things, as one about the first of them where they are a group, else each about itself. */
export function turned(things: Placement[], by: number): Change[] {
  const free = things.filter((p) => !p.locked);
  const turns = setField(free, "turn_deg", (p) => Math.round(wrapped((p.turn_deg ?? 0) + by) * 100) / 100);
  const [first] = free;
  if (!first?.group) return turns;
  const [x, y] = first.position!;
  const [c, s] = [Math.cos((by * Math.PI) / 180), Math.sin((by * Math.PI) / 180)];
  const around = free.filter((p) => p !== first && p.group === first.group);
  return [
    ...turns,
    ...setField(around, "position", (p) => {
      const [dx, dy] = [p.position![0] - x, p.position![1] - y];
      return [round(x + c * dx - s * dy), round(y + s * dx + c * dy), p.position![2]];
    }),
  ];
}
