/** What the stage view draws with: the stage, fixtures, the chosen object, its cameras and the planes that cut it open. */
import "./plain";

import {
  DoubleSide,
  Group,
  LinearSRGBColorSpace,
  Mesh,
  MeshBasicMaterial,
  OrthographicCamera,
  PerspectiveCamera,
  Plane,
  Raycaster,
  Scene,
  Sprite,
  Vector2,
  Vector3,
  WebGLRenderer,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

import type { Fixture, KindFigures, Placement, ThingLine } from "../api/client";
import { type Handle, handlesOf, sized } from "./handles";
import { COARSE, paced, type StageMesh } from "./mesh";
import { cone, drawn } from "./symbols";

export type Point = [number, number, number];
/** How one looks: from where one stands, or without perspective from above or a side. */
export type Look = "eye" | "plan" | "south" | "north" | "east" | "west";
/** Height and place above and before which nothing is drawn. */
export interface Cuts {
  height: number | null;
  section: { axis: "x" | "y"; place: number } | null;
}
/** Where something is pointed at in the page; null for the middle of the view. */
export type Pointed = { clientX: number; clientY: number; altKey?: boolean } | null;
export const MIDDLE: Pointed = null;

export interface Met {
  point: Vector3;
  /** Towards the viewer. */
  normal: Vector3;
  distance: number;
  object: string;
}

const AWAY: Record<Exclude<Look, "eye">, Point> = {
  plan: [0, 0, 1],
  south: [0, -1, 0],
  north: [0, 1, 0],
  east: [1, 0, 0],
  west: [-1, 0, 0],
};
const KNOB_SHARE = 0.014;

export class Model {
  readonly renderer: WebGLRenderer;
  readonly controls: OrbitControls;
  readonly eye = new PerspectiveCamera(62, 16 / 9, 0.05, 2000);
  readonly flat = new OrthographicCamera(-10, 10, 6, -6, -500, 2000);
  look: Look = "eye";
  private readonly scene = new Scene();
  private readonly paint = new MeshBasicMaterial({ vertexColors: true, side: DoubleSide });
  private readonly glass = new MeshBasicMaterial({
    vertexColors: true,
    side: DoubleSide,
    transparent: true,
    opacity: 0.3,
    depthWrite: false,
  });
  private readonly symbols = new Group();
  private readonly cones = new Group();
  private handles: Group | null = null;
  private mesh: (StageMesh & { opaqueMesh: Mesh; panesMesh: Mesh }) | null = null;
  private asked = false;
  private moving = false;
  private drawnTimes = 0;
  private coarse = COARSE;
  private last = 0;

  /** Raises where the browser has no WebGL. */
  constructor(
    private readonly element: HTMLElement,
    told: (model: Model) => void,
  ) {
    this.renderer = new WebGLRenderer({ antialias: false, powerPreference: "low-power" });
    this.renderer.setClearColor("#dcdcda");
    this.renderer.outputColorSpace = LinearSRGBColorSpace;
    element.appendChild(this.renderer.domElement);
    for (const camera of [this.eye, this.flat]) camera.up.set(0, 0, 1);
    this.scene.add(this.symbols, this.cones);
    this.controls = new OrbitControls(this.eye, this.renderer.domElement);
    this.controls.addEventListener("start", () => this.move(true));
    this.controls.addEventListener("end", () => this.move(false));
    this.controls.addEventListener("change", () => {
      this.draw();
      told(this);
    });
  }

  get camera(): PerspectiveCamera | OrthographicCamera {
    return this.look === "eye" ? this.eye : this.flat;
  }

  /** Draw anew at the next frame. */
  draw() {
    if (this.asked) return;
    this.asked = true;
    requestAnimationFrame(() => {
      this.asked = false;
      this.pace();
      if (this.handles) {
        // From above the knob to raise by would lie over the object itself.
        for (const part of this.handles.children)
          if (part.userData.handle === "raise") part.visible = this.look !== "plan";
        const high = this.renderer.domElement.clientHeight || 1;
        const half = Math.tan((this.eye.fov * Math.PI) / 360);
        sized(this.handles, this.camera.position, (distance) =>
          this.look === "eye"
            ? KNOB_SHARE * 2 * half * distance
            : (KNOB_SHARE * high * (this.flat.top - this.flat.bottom)) / this.flat.zoom / high,
        );
      }
      this.renderer.render(this.scene, this.camera);
      this.element.dataset.drawn = String(++this.drawnTimes);
    });
  }

  resize() {
    const { clientWidth: w, clientHeight: h } = this.element;
    if (!w || !h) return;
    this.renderer.setSize(w, h, false);
    this.eye.aspect = w / h;
    this.eye.updateProjectionMatrix();
    const half = ((this.flat.top - this.flat.bottom) / 2) * (w / h);
    [this.flat.left, this.flat.right] = [-half, half];
    this.flat.updateProjectionMatrix();
    this.draw();
  }

  /** While one looks around the largest triangles alone are drawn. */
  private move(moving: boolean) {
    this.moving = moving;
    this.coarsen();
    this.draw();
  }

  private coarsen() {
    this.mesh?.opaque.setDrawRange(0, this.moving ? 3 * this.coarse : Infinity);
  }

  /** Draw as much in a movement as this machine draws in time. */
  private pace() {
    const now = performance.now();
    if (this.moving && this.last > 0) {
      this.coarse = paced(this.coarse, now - this.last);
      this.coarsen();
    }
    this.last = this.moving ? now : 0;
  }

  setMesh(mesh: StageMesh) {
    const first = this.mesh === null;
    if (this.mesh) {
      this.scene.remove(this.mesh.opaqueMesh, this.mesh.panesMesh);
      this.mesh.opaque.dispose();
      this.mesh.panes.dispose();
    }
    const opaqueMesh = new Mesh(mesh.opaque, this.paint);
    const panesMesh = new Mesh(mesh.panes, this.glass);
    for (const part of [opaqueMesh, panesMesh]) part.position.set(...mesh.origin);
    panesMesh.renderOrder = 1;
    this.mesh = { ...mesh, opaqueMesh, panesMesh };
    this.scene.add(opaqueMesh, panesMesh);
    this.element.dataset.triangles = String(mesh.opaque.getAttribute("position").count / 3);
    if (first && this.look !== "eye") this.lookFrom(this.look);
    this.coarsen();
    this.draw();
  }

  /** Least and greatest corner of what is looked at. */
  get extent(): { low: Point; high: Point } {
    return this.mesh ?? { low: [-5, -5, 0], high: [5, 5, 4] };
  }

  setFixtures(fixtures: Fixture[], kinds: KindFigures[], chosen: string | null) {
    this.symbols.clear();
    this.cones.clear();
    for (const f of fixtures) {
      const figures = kinds.find((k) => k.kind.key === f.kind);
      this.symbols.add(drawn(f, figures?.kind.body ?? "none", f.key === chosen));
      if (f.key === chosen && figures) this.cones.add(cone(f, Math.max(...figures.beam_deg)));
    }
    this.draw();
  }

  setThing(thing: Placement | null, line: ThingLine | undefined) {
    if (this.handles) this.scene.remove(this.handles);
    this.handles = thing && line ? handlesOf(thing, line) : null;
    if (this.handles) this.scene.add(this.handles);
    this.draw();
  }

  setCuts({ height, section }: Cuts) {
    const planes: Plane[] = [];
    if (height !== null) planes.push(new Plane(new Vector3(0, 0, -1), height));
    if (section) {
      // What lies between the viewer of that elevation and the plane is taken away.
      const normal = section.axis === "x" ? new Vector3(-1, 0, 0) : new Vector3(0, 1, 0);
      planes.push(new Plane(normal, section.axis === "x" ? section.place : -section.place));
    }
    this.renderer.localClippingEnabled = planes.length > 0;
    for (const material of [this.paint, this.glass]) {
      material.clippingPlanes = planes;
      material.needsUpdate = true;
    }
    this.draw();
  }

  /** Stand somewhere and look at something. */
  stand(position: Point, target: Point) {
    this.look = "eye";
    this.controls.object = this.eye;
    this.controls.enableRotate = true;
    this.eye.position.set(...position);
    const ahead = new Vector3(...target).sub(this.eye.position).setLength(3);
    this.controls.target.copy(this.eye.position).add(ahead);
    this.controls.update();
    this.draw();
  }

  /** Look from above or a side, without perspective, at all there is. */
  lookFrom(look: Exclude<Look, "eye">) {
    const { low, high } = this.extent;
    const middle = new Vector3(...low).add(new Vector3(...high)).multiplyScalar(0.5);
    const size = new Vector3(...high).sub(new Vector3(...low));
    this.look = look;
    this.controls.object = this.flat;
    this.controls.enableRotate = false;
    const { clientWidth: w, clientHeight: h } = this.element;
    const wide = look === "plan" ? size.x : look === "south" || look === "north" ? size.x : size.y;
    const tall = look === "plan" ? size.y : size.z;
    const half = 0.62 * Math.max(tall, (wide * h) / Math.max(w, 1), 1);
    [this.flat.top, this.flat.bottom] = [half, -half];
    this.flat.zoom = 1;
    // Above, north is up: a hair aside, for straight down knows no up.
    const away = new Vector3(...AWAY[look]);
    if (look === "plan") away.y = -1e-4;
    this.controls.target.copy(middle);
    this.flat.position.copy(middle).addScaledVector(away, 400);
    this.resize();
    this.controls.update();
  }

  /** Where one stands, and what is looked at. */
  standing(): { position: Point; target: Point } {
    const round = (v: Vector3) => v.toArray().map((x) => Math.round(x * 1000) / 1000) as Point;
    return { position: round(this.eye.position), target: round(this.controls.target) };
  }

  ray(e: Pointed): Raycaster {
    const box = this.renderer.domElement.getBoundingClientRect();
    const ray = new Raycaster();
    const at = e
      ? new Vector2(
          ((e.clientX - box.left) / box.width) * 2 - 1,
          1 - ((e.clientY - box.top) / box.height) * 2,
        )
      : new Vector2(0, 0);
    ray.setFromCamera(at, this.camera);
    return ray;
  }

  /** The surface under the pointer that is not cut away. */
  meet(e: Pointed): Met | null {
    if (!this.mesh) return null;
    const ray = this.ray(e);
    const planes = this.paint.clippingPlanes ?? [];
    const hit = ray
      .intersectObject(this.mesh.opaqueMesh)
      .find((h) => planes.every((p) => p.distanceToPoint(h.point) >= 0));
    if (!hit?.face) return null;
    const normal = hit.face.normal.clone();
    if (normal.dot(ray.ray.direction) > 0) normal.negate();
    return {
      point: hit.point,
      normal,
      distance: hit.distance,
      object: this.mesh.objectOf(hit.faceIndex ?? 0),
    };
  }

  /** Key of the fixture under the pointer that no surface hides. */
  fixtureAt(e: Pointed): string | null {
    const ray = this.ray(e);
    const hit = ray.intersectObjects(this.symbols.children as Sprite[])[0];
    const surface = hit && this.meet(e);
    if (!hit || (surface && hit.distance >= surface.distance + 0.2)) return null;
    return hit.object.userData.key as string;
  }

  /** What of the chosen object's handles is under the pointer. */
  handleAt(e: Pointed): Handle | null {
    if (!this.handles) return null;
    const knobs = this.handles.children.filter((part) => part.userData.handle && part.visible);
    const hit = this.ray(e).intersectObjects(knobs, false)[0];
    return (hit?.object.userData.handle as Handle | undefined) ?? null;
  }

  /** Where the pointer's line meets a level plane; null where it does not. */
  onLevel(e: Pointed, height: number): Vector3 | null {
    return this.ray(e).ray.intersectPlane(new Plane(new Vector3(0, 0, 1), -height), new Vector3());
  }

  /** The height at which the pointer's line passes an upright line. */
  heightOver(e: Pointed, place: Point): number | null {
    const away = this.camera.getWorldDirection(new Vector3()).setZ(0);
    if (away.length() < 1e-3) return null;
    const plane = new Plane().setFromNormalAndCoplanarPoint(away.normalize(), new Vector3(...place));
    return this.ray(e).ray.intersectPlane(plane, new Vector3())?.z ?? null;
  }

  /** How high the knob to raise by lies above the object's own place, in metres. */
  knobHeight(): number {
    const knob = this.handles?.children.find((part) => part.userData.handle === "raise");
    return knob && this.handles ? knob.position.z * this.handles.scale.z : 0;
  }

  dispose() {
    this.controls.dispose();
    this.mesh?.opaque.dispose();
    this.mesh?.panes.dispose();
    this.renderer.dispose();
    this.element.removeChild(this.renderer.domElement);
  }
}
