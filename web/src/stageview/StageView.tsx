import { useEffect, useRef, useState } from "react";
import { Form } from "react-bootstrap";

import { api, type Occasion, type View } from "../api/client";
import { byKey } from "../bench/useWalk";
import { KindStrip } from "../plan/KindStrip";
import roomStyles from "../plan/plan.module.css";
import { useKinds } from "../plan/useKinds";
import { useModels, useServer } from "../state/server";
import { useStore } from "../state/store";
import { useHand } from "../things/hand";
import { useSnapping } from "../things/useSnapping";
import { useThings } from "../things/useThings";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { freeKey } from "../ui/format";
import { NumberField } from "../ui/NumberField";
import { act, type Drag, grabbed, type Room } from "./acts";
import { readMesh } from "./mesh";
import { type Cuts, type Look, MIDDLE, Model, type Point } from "./model";
import styles from "./stageview.module.css";

const cls = classesOf(roomStyles, styles);

interface Props extends Omit<Room, "snap"> {
  view: View;
  occasion: Occasion;
  chooseKind: (key: string | null) => void;
  /** Open another view on the bench. */
  openView: (key: string) => void;
}

const SIDES: [Exclude<Look, "eye">, string][] = [
  ["plan", "Plan"],
  ["south", "From the south"],
  ["east", "From the east"],
  ["north", "From the north"],
  ["west", "From the west"],
];
const place = (model: Model | null, view: View) => model?.stand(view.position as Point, view.target as Point);

/** The stage in its colours, to walk around in, to look at from above and the sides, and to cut open: fixtures and objects are placed on
 * the surface under the pointer, dragged and turned there. */
export default function StageView(props: Props) {
  const { slug, project, view, occasion, hands, selected, kind, chooseKind, furnishing } = props;
  const holder = useRef<HTMLDivElement>(null);
  const model = useRef<Model | null>(null);
  const snap = useSnapping(slug, project);
  const latest = useRef({ ...props, snap });
  latest.current = { ...props, snap };
  const kinds = useKinds(slug, project);
  const lines = useThings(slug);
  const { chosen } = useHand();
  const notify = useStore((s) => s.notify);
  const models = useModels();
  const surfaces = useStore((s) => s.saved?.description.stage);
  const told = useRef<HTMLSpanElement>(null);
  const [look, setLook] = useState<Look>("eye");
  const [cuts, setCuts] = useState<Cuts>({ height: null, section: null });

  /** Take where one stands as the lens's place, or as a new view. */
  const lookFromHere = (asNew: boolean) => {
    const at = model.current;
    if (!at) return;
    const { position, target } = at.standing();
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
    let made: Model;
    try {
      made = new Model(element, (at) => {
        // Written straight into the page: drawing this anew for every frame would cost more than the frame.
        if (told.current)
          told.current.textContent =
            at.look === "eye"
              ? `${at.eye.position
                  .toArray()
                  .map((v) => v.toFixed(2))
                  .join(", ")} m`
              : "";
      });
    } catch {
      notify("This browser has no WebGL; place fixtures on the ceiling plan instead.", "error");
      return;
    }
    model.current = made;
    place(made, latest.current.view);
    const resize = new ResizeObserver(() => made.resize());
    resize.observe(element);
    const canvas = made.renderer.domElement;
    let press: [number, number] | null = null;
    let held: Drag | null = null;
    const far = (e: PointerEvent) => press && Math.hypot(e.clientX - press[0], e.clientY - press[1]) > 4;
    const down = (e: PointerEvent) => {
      if (e.button !== 0) return;
      press = [e.clientX, e.clientY];
      held = e.altKey ? null : grabbed(e, made, () => latest.current);
      made.controls.enabled = held === null;
      if (held) canvas.setPointerCapture(e.pointerId);
    };
    const move = (e: PointerEvent) => {
      if (held && far(e)) held.move(e, false);
    };
    const up = (e: PointerEvent) => {
      const moved = far(e);
      if (held && moved) held.move(e, true);
      const still = press !== null && !moved;
      held = null;
      press = null;
      made.controls.enabled = true;
      if (still) act(e, made, latest.current, e.altKey);
    };
    canvas.addEventListener("pointerdown", down);
    canvas.addEventListener("pointermove", move);
    canvas.addEventListener("pointerup", up);
    return () => {
      resize.disconnect();
      made.dispose();
      model.current = null;
    };
  }, [slug, notify]);

  const dressed = JSON.stringify([surfaces?.surfaces, surfaces?.apart]);
  const at = [occasion.key, occasion.hidden_layers] as const;
  const data = useServer(["mesh", slug, models, dressed, at], () => api.mesh(slug, occasion.key), {
    told: true,
  });
  useEffect(() => {
    if (data) model.current?.setMesh(readMesh(data));
  }, [data, slug]);
  useEffect(
    () => model.current?.setFixtures(project.fixtures ?? [], kinds, furnishing ? null : selected),
    [project.fixtures, kinds, selected, furnishing],
  );
  const thing = furnishing
    ? (project.placements ?? []).find((p) => p.key === chosen[0] && p.made)
    : undefined;
  useEffect(
    () =>
      model.current?.setThing(
        thing ?? null,
        lines.find((l) => l.key === thing?.key),
      ),
    [thing, lines],
  );
  useEffect(() => model.current?.setCuts(cuts), [cuts]);

  const stands = JSON.stringify([view.position, view.target]);
  useEffect(() => place(model.current, latest.current.view), [stands]);

  const lookFrom = (side: Exclude<Look, "eye">) => {
    // From above a roof hides all there is: the cut goes through at the lens's height, and is gone with the plan.
    const lens = Number((view.position as Point)[2].toFixed(2));
    if (side === "plan" && cuts.height === null) setCuts({ ...cuts, height: lens });
    if (side !== "plan" && look === "plan" && cuts.height === lens) setCuts({ ...cuts, height: null });
    model.current?.lookFrom(side);
    setLook(side);
  };
  const { low, high } = model.current?.extent ?? { low: [0, 0, 0], high: [1, 1, 4] };
  const sectionAt = (axis: "x" | "y") => (axis === "x" ? (low[0] + high[0]) / 2 : (low[1] + high[1]) / 2);
  return (
    <div className={cls("plan-wrap")}>
      <div className={cls("plan-tools")} role="group" aria-label="Standing in the stage">
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() => lookFromHere(false)}
          disabled={look !== "eye"}
        >
          Look from here
        </Button>
        <Button size="sm" variant="outline-dark" onClick={() => lookFromHere(true)} disabled={look !== "eye"}>
          New view from here
        </Button>
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() => {
            place(model.current, view);
            setLook("eye");
          }}
        >
          Back to the lens
        </Button>
        <Form.Select
          size="sm"
          className={cls("sides")}
          aria-label="Look without perspective"
          value={look === "eye" ? "" : look}
          onChange={(e) => {
            const side = SIDES.find(([key]) => key === e.target.value);
            if (side) lookFrom(side[0]);
            else {
              place(model.current, view);
              setLook("eye");
            }
          }}
        >
          <option value="">In perspective</option>
          {SIDES.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          className={cls("sides")}
          aria-label="Section"
          value={cuts.section?.axis ?? ""}
          onChange={(e) => {
            const axis = e.target.value as "x" | "y" | "";
            setCuts({ ...cuts, section: axis ? { axis, place: Number(sectionAt(axis).toFixed(2)) } : null });
          }}
        >
          <option value="">No section</option>
          <option value="x">Section along Y</option>
          <option value="y">Section along X</option>
        </Form.Select>
        {cuts.section && (
          <span className={cls("number-of")}>
            <NumberField
              label={`Place of the section on ${cuts.section.axis.toUpperCase()}, m`}
              unit="m"
              value={cuts.section.place}
              step={0.25}
              onChange={(v) => v !== null && setCuts({ ...cuts, section: { ...cuts.section!, place: v } })}
            />
          </span>
        )}
        <span className="quiet number" ref={told} />
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
          const next = at.look === "eye" ? byKey(at.standing(), e) : null;
          if (next) {
            at.eye.position.set(...next.position);
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
        <CutRule
          low={low[2]}
          high={high[2]}
          height={cuts.height}
          set={(height) => setCuts((was) => ({ ...was, height }))}
        />
        <div className={cls("legend number")}>
          <span>
            {furnishing
              ? "click to place what is in hand; drag an object to move it, its ring knob to turn it, the upper one to raise it"
              : "click to place the chosen kind; drag a fixture to move it; Alt-click aims it; drag elsewhere to look around"}
          </span>
        </div>
      </div>
      {!furnishing && <KindStrip slug={slug} kinds={kinds} kind={kind} choose={chooseKind} />}
    </div>
  );
}

interface RuleProps {
  low: number;
  high: number;
  height: number | null;
  set: (height: number | null) => void;
}

/** The height above which nothing is drawn, on a rule as high as the stage. */
function CutRule({ low, high, height, set }: RuleProps) {
  const [from, to] = [Math.floor(low), Math.ceil(high) + 1];
  return (
    <div className={cls("cut-rule")}>
      <span className="number">{height === null ? "uncut" : `cut at ${height.toFixed(2)} m`}</span>
      <input
        type="range"
        aria-label="Cut height"
        aria-valuetext={height === null ? "uncut" : `${height.toFixed(2)} m`}
        min={from}
        max={to}
        step={0.05}
        value={height ?? to}
        onChange={(e) => {
          const value = Number(e.target.value);
          set(value >= to - 1e-6 ? null : value);
        }}
      />
    </div>
  );
}
