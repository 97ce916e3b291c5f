import { useEffect, useRef, useState } from "react";
import {
  AmbientLight,
  BufferAttribute,
  BufferGeometry,
  DirectionalLight,
  DoubleSide,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  PerspectiveCamera,
  Raycaster,
  Scene,
  SphereGeometry,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

import { api, type Project, type View } from "../api/client";
import type { Hands } from "../bench/useBench";
import { byKey } from "../bench/useWalk";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { freeKey } from "../ui/format";
import { KindStrip } from "./KindStrip";
import { placeFixture } from "../fixtures/place";
import { useKinds } from "./useKinds";
import { useModels, useServer } from "../state/server";
import { classesOf } from "../ui/classes";
import roomStyles from "./plan.module.css";

const cls = classesOf(roomStyles);

interface Props {
  slug: string;
  project: Project;
  view: View;
  hands: Hands;
  selected: string | null;
  select: (key: string | null) => void;
  kind: string | null;
  chooseKind: (key: string | null) => void;
  /** Open another view on the bench. */
  openView: (key: string) => void;
}

interface Model {
  scene: Scene;
  camera: PerspectiveCamera;
  renderer: WebGLRenderer;
  controls: OrbitControls;
  stage: Mesh | null;
  dots: Map<string, Mesh>;
  draw: () => void;
}

const DOT = new SphereGeometry(0.09, 10, 8);
const PLAIN = new MeshBasicMaterial({ color: "#b0501e" });
const CHOSEN = new MeshBasicMaterial({ color: "#66761a" });

/** The stage as a light mesh to walk around in: place the chosen kind on the surface under the pointer; aim with Alt. */
export default function WorkingView(props: Props) {
  const { slug, project, view, hands, selected, kind, chooseKind } = props;
  const holder = useRef<HTMLDivElement>(null);
  const model = useRef<Model | null>(null);
  const latest = useRef(props);
  latest.current = props;
  const kinds = useKinds(slug, project);
  const notify = useStore((s) => s.notify);
  const models = useModels();
  const [stand, setStand] = useState("");

  /** Take where one stands as the lens's place, or as a new view. */
  const lookFromHere = (asNew: boolean) => {
    const at = model.current;
    if (!at) return;
    const { position, target } = standing(at);
    if (!asNew) {
      hands.view("Look from here", { position, target }, true);
      notify(`“${view.name}” looks from here.`);
      return;
    }
    const key = freeKey("view", new Set((project.views ?? []).map((v) => v.key)));
    const number = (project.views ?? []).length + 1;
    const value = { ...view, key, name: `View ${number}`, position, target };
    hands.changes("New view from here", [{ part: "view", key, value }], true);
    props.openView(key);
  };

  useEffect(() => {
    const element = holder.current!;
    let renderer: WebGLRenderer;
    try {
      renderer = new WebGLRenderer({ antialias: false, powerPreference: "low-power" });
    } catch {
      notify("This browser has no WebGL; place fixtures on the ceiling plan instead.", "error");
      return;
    }
    renderer.setClearColor("#d8d8d8");
    element.appendChild(renderer.domElement);
    const scene = new Scene();
    const camera = new PerspectiveCamera(62, 16 / 9, 0.05, 800);
    camera.up.set(0, 0, 1);
    const first = latest.current.view;
    camera.position.set(...first.position);
    scene.add(new AmbientLight("#ffffff", 1.5));
    const key = new DirectionalLight("#ffffff", 1.6);
    key.position.set(-3, -5, 8);
    scene.add(key);
    const controls = new OrbitControls(camera, renderer.domElement);
    const ahead = new Vector3(...first.target).sub(camera.position).setLength(3);
    controls.target.copy(camera.position).add(ahead);
    let asked = false;
    const draw = () => {
      if (asked) return;
      asked = true;
      requestAnimationFrame(() => {
        asked = false;
        renderer.render(scene, camera);
      });
    };
    controls.addEventListener("change", () => {
      draw();
      setStand(
        camera.position
          .toArray()
          .map((v) => v.toFixed(2))
          .join(", ") + " m",
      );
    });
    controls.update();
    const made: Model = { scene, camera, renderer, controls, stage: null, dots: new Map(), draw };
    model.current = made;
    const resize = new ResizeObserver(() => {
      const { clientWidth: w, clientHeight: h } = element;
      if (!w || !h) return;
      renderer.setSize(w, h, false);
      camera.aspect = w / h;
      camera.updateProjectionMatrix();
      draw();
    });
    resize.observe(element);

    let press: [number, number] | null = null;
    let held: string | null = null;
    const down = (e: PointerEvent) => {
      press = [e.clientX, e.clientY];
      held = e.altKey ? null : dotUnder(e, made);
      controls.enabled = held === null;
      if (held) renderer.domElement.setPointerCapture(e.pointerId);
    };
    const move = (e: PointerEvent) => {
      if (held && press && Math.hypot(e.clientX - press[0], e.clientY - press[1]) > 4)
        carry(e, made, latest.current, held, false);
    };
    const up = (e: PointerEvent) => {
      const moved = press && Math.hypot(e.clientX - press[0], e.clientY - press[1]) > 4;
      if (held && moved) carry(e, made, latest.current, held, true);
      held = null;
      controls.enabled = true;
      if (!press || Math.hypot(e.clientX - press[0], e.clientY - press[1]) > 4) return;
      act(e, made, latest.current, e.altKey);
    };
    renderer.domElement.addEventListener("pointerdown", down);
    renderer.domElement.addEventListener("pointermove", move);
    renderer.domElement.addEventListener("pointerup", up);
    return () => {
      resize.disconnect();
      controls.dispose();
      renderer.dispose();
      element.removeChild(renderer.domElement);
      model.current = null;
    };
  }, [slug, notify]);

  const data = useServer(["mesh", slug, models], () => api.mesh(slug), { told: true, keep: false });
  useEffect(() => {
    const at = model.current;
    if (!data || !at) return;
    const geometry = new BufferGeometry();
    // Three doubles tell where the stage lies; its corners, single precision, are given about there.
    const origin = new Float64Array(data, 0, 3);
    geometry.setAttribute("position", new BufferAttribute(new Float32Array(data, 24), 3));
    geometry.computeVertexNormals();
    if (at.stage) at.scene.remove(at.stage);
    at.stage = new Mesh(geometry, new MeshLambertMaterial({ color: "#c8c8c8", side: DoubleSide }));
    at.stage.position.set(origin[0], origin[1], origin[2]);
    at.scene.add(at.stage);
    at.draw();
  }, [data, slug]);

  useEffect(() => {
    const at = model.current;
    if (!at) return;
    for (const dot of at.dots.values()) at.scene.remove(dot);
    at.dots.clear();
    for (const f of project.fixtures ?? []) {
      const dot = new Mesh(DOT, f.key === selected ? CHOSEN : PLAIN);
      dot.position.set(...f.position);
      dot.userData.key = f.key;
      at.scene.add(dot);
      at.dots.set(f.key, dot);
    }
    at.draw();
  }, [project.fixtures, selected]);

  const stands = JSON.stringify([view.position, view.target]);
  useEffect(() => place(model.current, latest.current.view), [stands]);

  return (
    <div className={cls("plan-wrap")}>
      <div className={cls("plan-tools")} role="group" aria-label="Standing in the stage">
        <Button size="sm" variant="outline-dark" onClick={() => lookFromHere(false)}>
          Look from here
        </Button>
        <Button size="sm" variant="outline-dark" onClick={() => lookFromHere(true)}>
          New view from here
        </Button>
        <Button size="sm" variant="outline-dark" onClick={() => place(model.current, view)}>
          Back to the lens
        </Button>
        <span className="quiet number">{stand}</span>
      </div>
      <div
        className={cls("plan")}
        ref={holder}
        data-testid="working-view"
        tabIndex={0}
        role="application"
        aria-label="Stage view: arrow keys look around, with Shift they walk, Page keys rise and sink; Enter places the chosen kind in the middle, A aims the fixture in hand there"
        onKeyDown={(e) => {
          const at = model.current;
          if (!at || e.ctrlKey || e.metaKey || e.altKey || e.target !== e.currentTarget) return;
          const next = byKey(standing(at), e);
          if (next) {
            at.camera.position.set(...next.position);
            at.controls.target.set(...next.target);
            at.controls.update();
          } else if (e.key === "Enter") act(MIDDLE, at, latest.current, false);
          else if (e.key.toLowerCase() === "a") act(MIDDLE, at, latest.current, true);
          else return;
          e.preventDefault();
          e.stopPropagation();
        }}
      >
        <span className="cross" style={{ left: "50%", top: "50%" }} />
        <div className={cls("legend number")}>
          <span>
            click a surface to place the chosen kind; drag a fixture to move it; Alt-click aims it; drag
            elsewhere to look around, wheel to go nearer
          </span>
        </div>
      </div>
      <KindStrip slug={slug} kinds={kinds} kind={kind} choose={chooseKind} />
    </div>
  );
}

/** Stand where a view stands, and look where it looks. */
function place(at: Model | null, view: View) {
  if (!at) return;
  at.camera.position.set(...view.position);
  at.controls.target
    .copy(at.camera.position)
    .add(new Vector3(...view.target).sub(at.camera.position).setLength(3));
  at.controls.update();
  at.draw();
}

/** Where one stands in the stage view, and what is looked at. */
function standing(at: Model): { position: [number, number, number]; target: [number, number, number] } {
  const round = (v: Vector3) =>
    v.toArray().map((x) => Math.round(x * 1000) / 1000) as [number, number, number];
  return { position: round(at.camera.position), target: round(at.controls.target) };
}

/** Where something is pointed at in the page; null for the middle of the view. */
type Pointed = { clientX: number; clientY: number } | null;
const MIDDLE: Pointed = null;

function rayAt(e: Pointed, at: Model): Raycaster {
  const rect = at.renderer.domElement.getBoundingClientRect();
  const ray = new Raycaster();
  if (e === null) {
    ray.setFromCamera(new Vector2(0, 0), at.camera);
    return ray;
  }
  ray.setFromCamera(
    new Vector2(
      ((e.clientX - rect.left) / rect.width) * 2 - 1,
      1 - ((e.clientY - rect.top) / rect.height) * 2,
    ),
    at.camera,
  );
  return ray;
}

/** Key of the fixture under the pointer that no surface hides. */
function dotUnder(e: Pointed, at: Model): string | null {
  const ray = rayAt(e, at);
  const dot = ray.intersectObjects([...at.dots.values()])[0];
  const surface = at.stage ? ray.intersectObject(at.stage)[0] : undefined;
  if (!dot || (surface && dot.distance >= surface.distance + 0.2)) return null;
  return dot.object.userData.key as string;
}

/** Carry a fixture, and its aim, to the surface under the pointer. */
function carry(e: Pointed, at: Model, props: Props, key: string, done: boolean) {
  const fixture = (props.project.fixtures ?? []).find((f) => f.key === key);
  const ray = rayAt(e, at);
  const surface = at.stage ? ray.intersectObject(at.stage)[0] : undefined;
  if (!fixture || !surface?.face) return;
  const normal = surface.face.normal.clone();
  if (normal.dot(ray.ray.direction) > 0) normal.negate();
  const to = surface.point.clone().addScaledVector(normal, 0.03).toArray();
  const by = to.map((v, k) => v - fixture.position[k]);
  const round = (v: number) => Math.round(v * 1000) / 1000;
  const move = (p: readonly number[]) => p.map((v, k) => round(v + by[k])) as [number, number, number];
  props.select(key);
  props.hands.fixtures(
    "Move fixture",
    [{ ...fixture, position: move(fixture.position), aim: move(fixture.aim) }],
    done,
  );
}

/** Select the fixture under the pointer, aim at the surface under it, or place the chosen kind there. */
function act(e: Pointed, at: Model, props: Props, aims: boolean) {
  const ray = rayAt(e, at);
  const dot = ray.intersectObjects([...at.dots.values()])[0];
  const surface = at.stage ? ray.intersectObject(at.stage)[0] : undefined;
  const { project, hands, selected, select, kind } = props;
  if (dot && (!surface || dot.distance < surface.distance + 0.2) && !aims) {
    select(dot.object.userData.key as string);
    return;
  }
  if (!surface?.face) return;
  const round = (v: number) => Math.round(v * 1000) / 1000;
  const p = surface.point;
  if (aims) {
    const fixture = (project.fixtures ?? []).find((f) => f.key === selected);
    if (fixture)
      hands.fixtures("Aim fixture", [{ ...fixture, aim: [round(p.x), round(p.y), round(p.z)] }], true);
    return;
  }
  const chosen = (project.kinds ?? []).find((k) => k.key === kind);
  if (!chosen) return;
  const normal = surface.face.normal.clone();
  if (normal.dot(ray.ray.direction) > 0) normal.negate();
  const spot = p.clone().addScaledVector(normal, 0.03);
  const away = Math.abs(normal.z) > 0.5 && normal.z > 0 ? new Vector3(0, 0, 1) : normal;
  const aim = normal.z < -0.5 ? new Vector3(spot.x, spot.y, 0) : spot.clone().addScaledVector(away, 2);
  void placeFixture(props.slug, {
    kind: chosen.key,
    at: [round(spot.x), round(spot.y)],
    height_m: round(spot.z),
    aim: [round(aim.x), round(aim.y), round(aim.z)],
  }).then((key) => key && select(key));
}
