import { Form } from "react-bootstrap";

import type { Surface } from "../api/client";
import type { Done } from "../state/store";
import { Value } from "../ui/Value";
import { fromHex, luminous, toHex } from "./colours";

interface Props {
  surface: Surface;
  hasPicture: boolean;
  onChange: (surface: Surface, what: string, done: Done) => void;
}

/** Kinds of leaf that follow the year. */
const LEAVES: NonNullable<Surface["leaf"]>[] = [
  "lime",
  "maple",
  "birch",
  "apple",
  "pear",
  "beech",
  "willow",
  "poplar",
  "rowan",
  "hazel",
  "alder",
  "larch",
  "evergreen",
  "grass",
];
const PATTERNS = ["none", "grain", "veins", "speckle", "weave", "boards", "clouds"] as const;
const METALS = [
  "aluminium",
  "brass",
  "bronze",
  "chromium",
  "copper",
  "gold",
  "iron",
  "nickel",
  "silver",
  "zinc",
] as const;

/** One layered surface: what it is made of, from the base to the coat. */
export function SurfaceEditor({ surface, hasPicture, onChange }: Props) {
  const s = surface;
  const put = (patch: Partial<Surface>, what: string, done: Done) => onChange({ ...s, ...patch }, what, done);
  const share = (label: string, key: keyof Surface, value: number, max = 1) => (
    <Value
      label={label}
      value={value}
      min={0}
      max={max}
      step={0.01}
      onChange={(v, done) => put({ [key]: v }, label, done)}
    />
  );
  const colour = (label: string, key: keyof Surface, rgb: readonly number[]) => (
    <div className="value" style={{ gridTemplateColumns: "84px 44px 1fr" }}>
      <label htmlFor={`surface-${key}`}>{label}</label>
      <input
        id={`surface-${key}`}
        type="color"
        value={toHex(rgb)}
        onChange={(e) => put({ [key]: fromHex(e.target.value) }, label, "soon")}
      />
      <span className="number quiet" title="of the light comes back">
        {(100 * luminous(rgb)).toFixed(1)} %
      </span>
    </div>
  );
  const glass = s.glass ?? "none";
  return (
    <>
      <div className="value" style={{ gridTemplateColumns: "84px 1fr" }}>
        <label htmlFor="surface-glass">Body</label>
        <Form.Select
          id="surface-glass"
          size="sm"
          value={
            glass !== "none" ? glass : s.conductor ? s.conductor : (s.metal ?? 0) > 0.5 ? "metal" : "matt"
          }
          onChange={(e) => {
            const body = e.target.value;
            const metal = METALS.find((m) => m === body);
            if (body === "thin" || body === "solid")
              put(
                { glass: body, roughness: 0, metal: 0, conductor: null, tint: s.tint ?? [1, 1, 1] },
                "Body",
                true,
              );
            else if (metal)
              put(
                { glass: "none", metal: 1, conductor: metal, roughness: Math.min(s.roughness ?? 0.3, 0.4) },
                "Body",
                true,
              );
            else
              put(
                {
                  glass: "none",
                  conductor: null,
                  metal: body === "metal" ? 1 : 0,
                  roughness: s.roughness || 0.5,
                },
                "Body",
                true,
              );
          }}
        >
          <option value="matt">Matt or glossy</option>
          <option value="metal">Metal of its own colour</option>
          {METALS.map((m) => (
            <option key={m} value={m}>
              {m[0].toUpperCase() + m.slice(1)}, measured
            </option>
          ))}
          <option value="thin">Glass pane</option>
          <option value="solid">Solid glass or water</option>
        </Form.Select>
      </div>
      {glass === "none" ? (
        <>
          {!s.conductor && colour("Colour", "base", s.base ?? [0.5, 0.5, 0.5])}
          {hasPicture && (
            <Form.Check
              type="switch"
              id="surface-picture"
              label="Keep the picture it came with"
              checked={s.keep_picture ?? true}
              onChange={(e) => put({ keep_picture: e.target.checked }, "Picture", true)}
            />
          )}
          {share("Roughness", "roughness", s.roughness ?? 0.8)}
          {!s.conductor && (s.metal ?? 0) < 0.5 && (
            <>
              {share("Gloss", "gloss", s.gloss ?? 1)}
              {share("Matt depth", "diffuse_roughness", s.diffuse_roughness ?? 0)}
            </>
          )}
          {share("Clear coat", "coat", s.coat ?? 0)}
          {(s.coat ?? 0) > 0 && share("Coat rough", "coat_roughness", s.coat_roughness ?? 0.05)}
          {!s.conductor && (s.metal ?? 0) < 0.5 && (
            <>
              {colour("Sheen", "sheen", s.sheen ?? [0, 0, 0])}
              {share("Through", "through", s.through ?? 0)}
              {(s.through ?? 0) > 0 &&
                colour("Back colour", "through_tint", s.through_tint ?? s.base ?? [0.5, 0.5, 0.5])}
            </>
          )}
        </>
      ) : (
        <>
          {colour("Tint", "tint", s.tint ?? [1, 1, 1])}
          {share("Roughness", "roughness", s.roughness ?? 0)}
          <Value
            label="Index"
            value={s.index ?? 1.5}
            min={1.01}
            max={2.5}
            step={0.01}
            onChange={(v, done) => put({ index: v }, "Index", done)}
          />
          {glass === "solid" && (
            <>
              <Value
                label="Tint depth"
                value={s.tint_depth_m ?? 0.1}
                min={0.001}
                max={50}
                step={0.01}
                unit="m"
                log
                onChange={(v, done) => put({ tint_depth_m: v }, "Tint depth", done)}
              />
              <Value
                label="Waves"
                value={s.ripple_m ?? 0}
                min={0}
                max={0.3}
                step={0.005}
                unit="m"
                onChange={(v, done) => put({ ripple_m: v }, "Waves", done)}
              />
            </>
          )}
        </>
      )}
      {glass === "none" && (
        <>
          <div className="value" style={{ gridTemplateColumns: "84px 1fr" }}>
            <label htmlFor="surface-pattern">Pattern</label>
            <Form.Select
              id="surface-pattern"
              size="sm"
              value={s.pattern ?? "none"}
              onChange={(e) => put({ pattern: e.target.value as Surface["pattern"] }, "Pattern", true)}
            >
              {PATTERNS.map((p) => (
                <option key={p}>{p}</option>
              ))}
            </Form.Select>
          </div>
          {(s.pattern ?? "none") !== "none" && (
            <>
              {colour("Second", "pattern_tint", s.pattern_tint ?? [0.5, 0.5, 0.5])}
              <Value
                label="Size"
                value={s.pattern_m ?? 0.2}
                min={0.002}
                max={5}
                step={0.01}
                unit="m"
                log
                onChange={(v, done) => put({ pattern_m: v }, "Pattern size", done)}
              />
              <Value
                label="Relief"
                value={s.bump_m ?? 0}
                min={0}
                max={0.02}
                step={0.0005}
                unit="m"
                onChange={(v, done) => put({ bump_m: v }, "Relief", done)}
              />
            </>
          )}
          {share("Weathering", "weathering", s.weathering ?? 0)}
          <div className="value" style={{ gridTemplateColumns: "84px 1fr" }}>
            <label htmlFor="surface-leaf">Leaves of</label>
            <Form.Select
              id="surface-leaf"
              size="sm"
              value={s.leaf ?? ""}
              onChange={(e) =>
                put({ leaf: (e.target.value || null) as Surface["leaf"] }, "Kind of leaf", true)
              }
            >
              <option value="">nothing</option>
              {LEAVES.map((kind) => (
                <option key={kind}>{kind}</option>
              ))}
            </Form.Select>
          </div>
        </>
      )}
    </>
  );
}
