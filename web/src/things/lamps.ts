/** The fixtures within lamps go along with what is done to the lamps: moved, turned, copied, hidden, taken away. */
import type { Change, Fixture, Placement, Project } from "../api/client";
import { freeKey } from "../ui/format";

type Point = [number, number, number];

const round = (v: number) => Math.round(v * 1e4) / 1e4;

/** The changes, and those of the fixtures within what they change. */
export function withLamps(project: Project, changes: Change[]): Change[] {
  const placements = new Map((project.placements ?? []).map((p) => [p.key, p]));
  const fixtures = new Map((project.fixtures ?? []).map((f) => [f.key, f]));
  if (fixtures.size === 0) return changes;
  const taken = new Set(fixtures.keys());
  const after = new Map<string, Placement | null>();
  const more: Change[] = [];
  const out = changes.map((change): Change => {
    if (change.part !== "placement" || change.key == null) return change;
    const before = placements.get(change.key);
    if (change.at?.length) {
      const now = after.get(change.key) ?? before;
      if (now && change.at.length === 1 && !change.away)
        after.set(change.key, { ...now, [change.at[0]]: change.value });
      return change;
    }
    if (change.value == null) {
      if (change.place == null) after.set(change.key, null);
      return change;
    }
    const made = change.value as Placement;
    const held = made.lamp ? fixtures.get(made.lamp) : undefined;
    if (before || !held) return change;
    // A copy of a lamp holds a fixture of its own.
    const source = (project.placements ?? []).find((p) => p.lamp === held.key);
    const key = freeKey(held.key.replace(/-\d+$/, ""), taken);
    taken.add(key);
    const moved = source ? along(held, source, made) : held;
    more.push({ part: "fixture", key, value: { ...held, ...moved, key } });
    return { ...change, value: { ...made, lamp: key } };
  });
  for (const [key, now] of after) {
    const before = placements.get(key)!;
    const held = before?.lamp ? fixtures.get(before.lamp) : undefined;
    if (!held) continue;
    if (now === null) more.push({ part: "fixture", key: held.key, value: null });
    else {
      const { position, aim } = along(held, before, now);
      if (position.some((v, k) => v !== held.position[k])) {
        more.push({ part: "fixture", key: held.key, at: ["position"], value: position });
        more.push({ part: "fixture", key: held.key, at: ["aim"], value: aim });
      }
      if (now.hidden !== before.hidden)
        more.push({ part: "fixture", key: held.key, at: ["on"], value: !now.hidden });
    }
  }
  return more.length > 0 ? [...out, ...more] : out;
}

/** Where a fixture comes to with the thing that holds it: moved, turned, scaled, mirrored as that is. */
function along(held: Fixture, from: Placement, to: Placement): { position: Point; aim: Point } {
  const moved = (p: readonly number[]): Point => {
    const d = p.map((v, k) => v - from.position![k]);
    const [c, s] = turn(-(from.turn_deg ?? 0));
    const scale = (to.scale ?? 1) / (from.scale ?? 1);
    const flip = (from.mirrored ?? false) !== (to.mirrored ?? false) ? -1 : 1;
    const own = [flip * (c * d[0] - s * d[1]) * scale, (s * d[0] + c * d[1]) * scale, d[2] * scale];
    const [e, f] = turn(to.turn_deg ?? 0);
    const [x, y, z] = to.position!;
    return [round(x + e * own[0] - f * own[1]), round(y + f * own[0] + e * own[1]), round(z + own[2])];
  };
  return { position: moved(held.position), aim: moved(held.aim) };
}

const turn = (degrees: number): [number, number] => [
  Math.cos((degrees * Math.PI) / 180),
  Math.sin((degrees * Math.PI) / 180),
];
