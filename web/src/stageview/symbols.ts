/** Fixtures as they are drawn in the stage view: by their drafting symbol, the chosen one with the cone of its light. */
import "./plain";

import {
  BufferGeometry,
  CanvasTexture,
  ConeGeometry,
  Group,
  Line,
  LineBasicMaterial,
  LineSegments,
  SphereGeometry,
  Mesh,
  MeshBasicMaterial,
  Quaternion,
  Sprite,
  SpriteMaterial,
  Vector3,
  EdgesGeometry,
  DoubleSide,
} from "three";

import type { Fixture } from "../api/client";

const SIDE = 64;
/** Size of a symbol on the screen, as a share of its height. */
const SCALE = 0.045;
const kept = new Map<string, SpriteMaterial>();

/** The drafting symbol of a body, the same as on the ceiling plan. */
function symbol(body: string, lit: boolean, chosen: boolean): SpriteMaterial {
  const key = `${body} ${lit} ${chosen}`;
  const known = kept.get(key);
  if (known) return known;
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = SIDE;
  const c = canvas.getContext("2d")!;
  const [m, r] = [SIDE / 2, SIDE * 0.36];
  c.lineWidth = chosen ? 6 : 4;
  c.strokeStyle = chosen ? "#66761a" : "#1e1e1e";
  c.fillStyle = lit ? "#ffffff" : "#d0d0d0";
  const ring = (radius: number) => {
    c.beginPath();
    c.arc(m, m, radius, 0, 2 * Math.PI);
  };
  if (body === "line") {
    c.fillRect(4, m - 8, SIDE - 8, 16);
    c.strokeRect(4, m - 8, SIDE - 8, 16);
  } else {
    ring(r);
    c.fill();
    c.stroke();
  }
  c.beginPath();
  if (body === "pendant") {
    c.moveTo(m - r, m);
    c.lineTo(m + r, m);
    c.moveTo(m, m - r);
    c.lineTo(m, m + r);
    c.stroke();
  } else if (body === "lantern") {
    const d = r * 0.7;
    c.moveTo(m - d, m - d);
    c.lineTo(m + d, m + d);
    c.moveTo(m - d, m + d);
    c.lineTo(m + d, m - d);
    c.stroke();
  } else if (body === "downlight") {
    ring(r * 0.45);
    c.fillStyle = lit ? "#b0501e" : "#d0d0d0";
    c.fill();
    c.stroke();
  } else if (body === "washer") {
    c.arc(m, m, r, Math.PI, 2 * Math.PI);
    c.fillStyle = c.strokeStyle;
    c.fill();
  } else if (body === "table") {
    c.fillStyle = c.strokeStyle;
    c.fillRect(m - r * 0.4, m - r * 0.4, r * 0.8, r * 0.8);
  }
  const made = new SpriteMaterial({ map: new CanvasTexture(canvas), sizeAttenuation: false });
  kept.set(key, made);
  return made;
}

/** A fixture's symbol where it hangs. */
export function drawn(fixture: Fixture, body: string, chosen: boolean): Sprite {
  const made = new Sprite(symbol(body, fixture.on !== false && (fixture.percent ?? 100) > 0, chosen));
  made.position.set(...fixture.position);
  made.scale.set(SCALE, SCALE, 1);
  made.userData.key = fixture.key;
  return made;
}

const BEAM = new MeshBasicMaterial({
  color: "#e8c34a",
  transparent: true,
  opacity: 0.2,
  depthWrite: false,
  side: DoubleSide,
});
const RIM = new LineBasicMaterial({ color: "#a5810f", transparent: true, opacity: 0.7 });
const AXIS = new LineBasicMaterial({ color: "#66761a" });

/** A beam wider than this goes all about. */
const WIDEST = 150;

/** The cone of half its peak intensity, from a fixture to where it aims. */
export function cone(fixture: Fixture, beamDeg: number): Group {
  const made = new Group();
  const from = new Vector3(...fixture.position);
  const to = new Vector3(...fixture.aim);
  const far = Math.max(from.distanceTo(to), 0.1);
  if (beamDeg > WIDEST) {
    const about = new LineSegments(new EdgesGeometry(new SphereGeometry(0.45, 14, 9), 1), RIM);
    about.position.copy(from);
    made.add(about);
    return made;
  }
  const half = (Math.max(beamDeg, 2) / 360) * Math.PI;
  const body = new ConeGeometry(far * Math.tan(half), far, 28, 1, true);
  body.translate(0, -far / 2, 0);
  const light = new Mesh(body, BEAM);
  const rim = new LineSegments(new EdgesGeometry(body, 30), RIM);
  const turn = new Quaternion().setFromUnitVectors(new Vector3(0, -1, 0), to.clone().sub(from).normalize());
  for (const part of [light, rim]) {
    part.quaternion.copy(turn);
    part.position.copy(from);
    made.add(part);
  }
  made.add(new Line(new BufferGeometry().setFromPoints([from, to]), AXIS));
  return made;
}
