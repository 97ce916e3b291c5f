import { useRef, useState } from "react";
import { Form } from "react-bootstrap";

import {
  api,
  type Change,
  type Look,
  type Occasion,
  type Plate,
  type Project,
  type Treatment,
  type View,
} from "../api/client";
import type { LiveHeader } from "../api/live";
import { lookOf } from "../bench/steps";
import type { Hands } from "../bench/useBench";
import { type Done, useStore } from "../state/store";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { freeKey } from "../ui/format";
import { KeptMenu } from "../ui/KeptMenu";
import { LookTiles } from "./LookTiles";
import { TreatmentCard } from "./TreatmentCard";
import { ThreeValues } from "./ThreeValues";
import { added, changedAt, type Numbers, withTreatments } from "./treatments";
import type { FinishPointer, Tool } from "./useFinishPointer";
import { useTreatments } from "./useTreatments";
import styles from "./finish.module.css";

const cls = classesOf(styles);

interface Props {
  slug: string;
  project: Project;
  view: View;
  occasion: Occasion;
  plate: Plate | null;
  header: LiveHeader | null;
  hands: Hands;
  pointer: FinishPointer;
  /** The treatment whose limit is shown in the picture, by its number. */
  marked: number | null;
  mark: (number: number | null) => void;
}

/** Treatments of few numbers stand open; the others open when they are taken in hand. */
const OPEN = new Set(["exposure", "white_balance", "tone_curve", "contrast", "saturation"]);
const TOOLS: [Tool, string, string][] = [
  ["exposure", "Light", "Drag up or down on a surface to make it lighter or darker"],
  ["warmth", "Warmth", "Drag up or down on a surface to make it warmer or cooler"],
  ["contrast", "Contrast", "Drag up or down on a surface for more or less contrast"],
  ["grey", "Grey", "Point at what should be grey: the white balance follows"],
];

/** The look: what is on, in its order, each with its numbers; the rest as names to add. */
export function Finish(props: Props) {
  const { slug, project, view, occasion, plate, header, hands, pointer, marked, mark } = props;
  const commit = useStore((s) => s.commit);
  const notify = useStore((s) => s.notify);
  const kinds = useTreatments();
  const [byEye, setByEye] = useState(false);
  const [folds, setFolds] = useState<Record<string, boolean>>({});
  const [inHand, setInHand] = useState<{ number: number; field: string } | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const look = lookOf(project, view, occasion.key);
  const looks = project.looks ?? [];
  const treatments = look.treatments ?? [];
  const at = { slug, view: view.key, occasion: occasion.key };
  const used = (project.views ?? []).flatMap((v) =>
    (project.occasions ?? []).filter((o) => lookOf(project, v, o.key).key === look.key),
  ).length;
  const { inPicture, setInPicture } = pointer;
  const put = (label: string, list: Treatment[], done: Done) =>
    hands.look(label, withTreatments(look, list), done);
  const choose = (key: string) =>
    hands.view("Choose look", { look_at: { ...view.look_at, [occasion.key]: key } }, true);
  const laid = (key: string): Change => ({
    part: "view",
    key: view.key,
    at: ["look_at", occasion.key],
    value: key,
  });
  const take = async (from: Look, name: string, key: string, label: string) => {
    await commit(label, [{ part: "look", key, value: { ...from, key, name } }, laid(key)]);
  };
  const ownLook = () => {
    const key = freeKey(look.key!, new Set(looks.map((l) => l.key!)));
    return take(look, `${look.name} ${key.match(/\d+$/)?.[0] ?? 2}`, key, "A look of its own");
  };
  const bring = async (chosen: File | undefined) => {
    if (!chosen) return;
    try {
      await useStore.getState().settle();
      const made = await api.takeLook(slug, chosen);
      useStore.getState().adopt(made.project);
      choose(made.key);
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  // Several of a kind are told apart by their number.
  const names = treatments.map((t, k) => {
    const title = kinds.find((kind) => kind.kind === t.kind)?.title ?? t.kind ?? "";
    const before = treatments.slice(0, k).filter((o) => o.kind === t.kind).length;
    return before ? `${title} ${before + 1}` : title;
  });
  const add = (kind: (typeof kinds)[number], from: object = {}) => {
    setInPicture(null);
    mark(null);
    const made = added(kinds, treatments, kind, from);
    const before = made.treatments.slice(0, made.index).filter((t) => t.kind === kind.kind).length;
    setFolds({ ...folds, [before ? `${kind.title} ${before + 1}` : kind.title]: true });
    put(`${kind.title} on`, made.treatments, true);
  };
  const held = inHand && treatments[inHand.number];
  const form =
    held && kinds.find((kind) => kind.kind === held.kind)?.numbers.find((n) => n.field === inHand.field);
  return (
    <>
      <h2>Finish</h2>
      <p className="lead">
        {plate
          ? "Changes show on the live picture; make a plate to keep them."
          : "From the linear picture to the print."}
      </p>
      <div className="value" style={{ gridTemplateColumns: "84px 1fr auto" }}>
        <label htmlFor="look">Look</label>
        <Form.Select id="look" size="sm" value={look.key} onChange={(e) => choose(e.target.value)}>
          {looks.map((l) => (
            <option key={l.key} value={l.key}>
              {l.name}
            </option>
          ))}
        </Form.Select>
        <KeptMenu slug={slug} part="look" items={looks} item={look} copied={choose} />
      </div>
      {used > 1 && (
        <p className="quiet mb-1">
          Shared by {used} pictures.{" "}
          <Button
            variant="link"
            size="sm"
            className="p-0 align-baseline text-decoration-underline"
            onClick={() => void ownLook()}
          >
            Make one of its own
          </Button>
        </p>
      )}
      <div className={cls("tools")}>
        <Button
          size="sm"
          variant={byEye ? "dark" : "outline-dark"}
          aria-pressed={byEye}
          onClick={() => setByEye(!byEye)}
        >
          Looks by eye
        </Button>
        <span className="ms-auto quiet">
          Save{" "}
          <a href={api.lookFile(slug, look.key!, "json")} download aria-label="Save the look as JSON">
            JSON
          </a>{" "}
          <a
            href={api.lookFile(slug, look.key!, "cube")}
            download
            aria-label="Save the look as a lookup table, .cube"
          >
            .cube
          </a>
        </span>
        <Button variant="link" size="sm" className="p-0" onClick={() => file.current?.click()}>
          Bring…
        </Button>
        <input
          ref={file}
          type="file"
          accept=".json"
          hidden
          aria-label="File of a look"
          onChange={(e) => {
            void bring(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </div>
      {byEye && (
        <LookTiles
          at={at}
          header={header}
          own={looks}
          chosen={look.key!}
          choose={choose}
          take={(ready) =>
            void take(
              ready,
              ready.name!,
              freeKey(ready.key!, new Set(looks.map((l) => l.key!))),
              `Look ${ready.name}`,
            )
          }
        />
      )}
      <div className={cls("tools")} role="group" aria-label="In the picture">
        {TOOLS.map(([tool, word, about]) => {
          const on = inPicture !== null && "tool" in inPicture && inPicture.tool === tool;
          return (
            <Button
              key={tool}
              size="sm"
              variant={on ? "dark" : "outline-dark"}
              aria-pressed={on}
              title={about}
              onClick={() => setInPicture(on ? null : { tool })}
            >
              {word}
            </Button>
          );
        })}
      </div>
      {inPicture && "tool" in inPicture && (
        <p className="quiet mb-1" role="status">
          {TOOLS.find(([tool]) => tool === inPicture.tool)![2]}
          {inPicture.tool === "grey" ? "." : "; with Shift the whole picture."}
        </p>
      )}
      {treatments.map((treatment, k) => {
        const kind = kinds.find((line) => line.kind === treatment.kind);
        if (!kind) return null;
        const name = names[k];
        const laying = inPicture && "laying" in inPicture && inPicture.number === k ? inPicture.laying : null;
        return (
          <TreatmentCard
            key={name}
            {...{ header, kind, treatment, name, laying }}
            // What is off keeps its line, to be switched on again as it was, and no more.
            open={folds[name] ?? (treatment.on !== false && OPEN.has(kind.kind))}
            setOpen={(open) => setFolds({ ...folds, [name]: open })}
            lift={liftOf(treatments.slice(0, k))}
            groups={
              project.fixtures
                ? [...new Set(["sun", "sky", ...project.fixtures.map((f) => f.group ?? "Fixtures")])]
                : []
            }
            change={(patch, done) => put(name, changedAt(treatments, k, patch), done)}
            take={(field) => setInHand({ number: k, field })}
            takeAway={() => {
              setInPicture(null);
              mark(null);
              put(`Take ${name} out`, changedAt(treatments, k, null), true);
            }}
            another={() => add(kind)}
            lay={(what) => {
              setInPicture(what && { laying: what, number: k });
              if (what) mark(k);
            }}
            marked={marked === k}
            mark={(on) => mark(on ? k : null)}
          />
        );
      })}
      <section className={cls("card")} aria-label="Add to the look">
        <b>Add</b>
        <div className={cls("names")}>
          {kinds
            .filter((kind) => !treatments.some((t) => t.kind === kind.kind))
            .map((kind) => (
              <button key={kind.kind} type="button" title={kind.about} onClick={() => add(kind)}>
                {kind.title}
              </button>
            ))}
        </div>
      </section>
      {form && held.on !== false && (
        <ThreeValues
          {...{ at, header, form }}
          about={`${names[inHand.number]}: ${form.label}`}
          value={((held as unknown as Numbers)[form.field] as number | undefined) ?? form.normal}
          under={(value) =>
            withTreatments(look, changedAt(treatments, inHand.number, { [form.field]: value }))
          }
          choose={(value) =>
            put(names[inHand.number], changedAt(treatments, inHand.number, { [form.field]: value }), true)
          }
          close={() => setInHand(null)}
        />
      )}
    </>
  );
}

/** Stops by which exposure that holds everywhere lifts the picture. */
function liftOf(before: Treatment[]): number {
  return before.reduce(
    (sum, t) =>
      sum + (t.kind === "exposure" && t.on !== false && !t.limit ? (t.stops ?? 0) * (t.strength ?? 1) : 0),
    0,
  );
}
