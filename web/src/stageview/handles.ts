/** The chosen object in its box, with what it is moved, turned and raised by. */
import "./plain";

import {
  Box3,
  Box3Helper,
  BufferGeometry,
  Color,
  Group,
  Line,
  LineBasicMaterial,
  LineLoop,
  Mesh,
  MeshBasicMaterial,
  SphereGeometry,
  Vector3,
} from "three";

import type { Placement, ThingLine } from "../api/client";

export type Handle = "turn" | "raise";

const GREEN = new Color("#556414");
const LINES = new LineBasicMaterial({ color: GREEN, depthTest: false, transparent: true });
const KNOB = new MeshBasicMaterial({ color: GREEN, depthTest: false, transparent: true });
const BALL = new SphereGeometry(1, 12, 8);

/** Box, ring and knobs of an object; knobs say what they do by `userData.handle`. */
export function handlesOf(thing: Placement, line: ThingLine): Group {
  const made = new Group();
  made.position.set(...thing.position!);
  made.rotation.z = ((thing.turn_deg ?? 0) * Math.PI) / 180;
  made.scale.setScalar(thing.scale ?? 1);
  const [low, high] = [new Vector3(...line.low), new Vector3(...line.high)];
  const box = new Box3Helper(new Box3(low, high), GREEN);
  box.material = LINES;
  made.add(box);
  if (thing.locked) return made;
  const reach = 0.15 / (thing.scale ?? 1) + Math.max(Math.hypot(low.x, low.y), Math.hypot(high.x, high.y));
  const ring = Array.from({ length: 48 }, (_, k) => {
    const a = (k * Math.PI) / 24;
    return new Vector3(reach * Math.cos(a), reach * Math.sin(a), low.z);
  });
  made.add(new LineLoop(new BufferGeometry().setFromPoints(ring), LINES));
  const middle = new Vector3((low.x + high.x) / 2, (low.y + high.y) / 2, high.z);
  const above = middle.clone().add(new Vector3(0, 0, 0.35 / (thing.scale ?? 1)));
  made.add(new Line(new BufferGeometry().setFromPoints([middle, above]), LINES));
  for (const [handle, at] of [
    ["turn", new Vector3(0, -reach, low.z)],
    ["raise", above],
  ] as [Handle, Vector3][]) {
    const knob = new Mesh(BALL, KNOB);
    knob.position.copy(at);
    knob.userData.handle = handle;
    made.add(knob);
  }
  // Behind nothing: drawn after the stage and its panes.
  for (const part of made.children) part.renderOrder = 2;
  return made;
}

/** Keep knobs of one size on the screen. */
export function sized(group: Group, eye: Vector3, perMetre: (distance: number) => number) {
  for (const part of group.children) {
    if (!part.userData.handle) continue;
    const distance = part.getWorldPosition(new Vector3()).distanceTo(eye);
    part.scale.setScalar(perMetre(distance) / (group.scale.x || 1));
  }
}
