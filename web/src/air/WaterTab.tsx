import { Form } from "react-bootstrap";

import type { Air, Change, Project, View } from "../api/client";
import type { Hands } from "../bench/useBench";
import type { Done } from "../state/store";
import { classesOf } from "../ui/classes";
import { Value } from "../ui/Value";
import styles from "./air.module.css";
import { FogDrawing } from "./FogDrawing";

const cls = classesOf(styles);
type Net = NonNullable<NonNullable<Project["stage"]>["light_net"]>;

interface Props {
  slug: string;
  project: Project;
  view: View;
  hands: Hands;
}

/** Light gathered through water and solid glass: the region it is followed in, drawn where it lies, and how fine. */
export function WaterTab({ slug, project, view, hands }: Props) {
  const net = (project.stage?.light_net ?? {}) as Net;
  const set = (label: string, patch: Partial<Net>, done: Done) =>
    hands.changes(
      label,
      [{ part: "stage", key: "", at: ["light_net"], value: { ...net, ...patch } } as Change],
      done,
    );
  // Drawn as a box of air is, without a density.
  const box = { extent: "box", on: net.on, low: net.low, high: net.high, fall_m: null } as unknown as Air;
  const [low, high] = [net.low ?? [-10, -10, -3], net.high ?? [10, 10, 3]];
  return (
    <>
      <Form.Check
        type="switch"
        id="light-net"
        label="Follow light through water and glass"
        checked={net.on ?? false}
        onChange={(e) =>
          set(e.target.checked ? "Light net on" : "Light net off", { on: e.target.checked }, true)
        }
      />
      <p className={cls("says")}>
        Sun and lamps draw a moving net under water and through solid glass, within this region. Small and
        close about the water costs least; seen in proofs and presses.
      </p>
      <FogDrawing
        slug={slug}
        view={view}
        air={box}
        plain
        set={(_, patch, done) =>
          set("Region of the light net", { low: patch.low, high: patch.high } as Partial<Net>, done)
        }
      />
      <p className={cls("says")}>
        {low.map((v, k) => (high[k] - v).toFixed(1)).join(" × ")} m,{" "}
        {(net.photons ?? 400000).toLocaleString("en")} photons in a proof
      </p>
      <Value
        label="Fineness"
        value={100 * (net.fineness_m ?? 0.03)}
        min={0.2}
        max={100}
        step={0.1}
        unit="cm"
        log
        onChange={(v, done) =>
          set("Fineness of the light net", { fineness_m: Number((v / 100).toPrecision(3)) }, done)
        }
      />
      <Value
        label="Photons"
        value={(net.photons ?? 400000) / 1000}
        min={1}
        max={20000}
        step={10}
        unit="k"
        log
        onChange={(v, done) => set("Photons of the light net", { photons: Math.round(v * 1000) }, done)}
      />
    </>
  );
}
