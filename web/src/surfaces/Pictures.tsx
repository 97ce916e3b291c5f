import { useRef, useState } from "react";

import { api, type Channel, Refusal, type Surface } from "../api/client";
import { useStore } from "../state/store";
import { classesOf } from "../ui/classes";
import { NumberField } from "../ui/NumberField";
import styles from "./surfaces.module.css";

const cls = classesOf(styles);

const CHANNELS: [Channel, string, string][] = [
  ["colour", "Colour", "multiplies the colour"],
  ["roughness", "Rough", "white is rough"],
  ["metal", "Metal", "white is metal"],
  ["normal", "Relief", "a normal map, green up"],
  ["height", "Height", "white is high"],
  ["opacity", "Opacity", "black is cut out"],
  ["light", "Light", "multiplies what it gives off, by the model’s own uv"],
];

interface Props {
  surface: Surface;
  put: (patch: Partial<Surface>, what: string) => void;
}

/** The pictures of a surface by what they say: press one to bring a file in, or drop it there. */
export function Pictures({ surface, put }: Props) {
  const [over, setOver] = useState<Channel | null>(null);
  const [busy, setBusy] = useState<Channel | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const wanted = useRef<Channel>("colour");
  const held = surface.pictures;
  const notify = useStore((s) => s.notify);
  const take = async (channel: Channel, file: File | undefined) => {
    if (!file) return;
    setBusy(channel);
    try {
      const made = await api.takeSurfacePicture(channel, file);
      for (const word of made.words) notify(`${file.name}: ${word}`, "info");
      put(
        {
          pictures: { height_m: 0.01, ...held, [channel]: made.asset },
          ...(channel === "light"
            ? {}
            : { laying: surface.laying ?? { by: "box", tile_m: 1, turn_deg: 0, shift_m: [0, 0] } }),
          // A picture is seen as it is; numbers multiply it.
          ...(channel === "colour" && !held?.colour ? { base: [1, 1, 1] } : {}),
          ...(channel === "roughness" && !held?.roughness ? { roughness: 1 } : {}),
          ...(channel === "metal" && !held?.metal ? { metal: 1 } : {}),
        },
        `Picture of ${channel}`,
      );
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      notify(error.message, "error");
    } finally {
      setBusy(null);
    }
  };
  const without = (channel: Channel) => {
    const rest = { ...held!, [channel]: null };
    const none = CHANNELS.every(([key]) => !rest[key]);
    put({ pictures: none ? null : rest }, `No picture of ${channel}`);
  };
  return (
    <>
      <h3>Pictures</h3>
      <div className={cls("channels")} role="list" aria-label="Pictures of the surface">
        {CHANNELS.map(([channel, name, tells]) => (
          <div role="listitem" key={channel} className={cls("channel")}>
            <button
              className={cls(`well ${over === channel ? "over" : ""}`)}
              aria-label={held?.[channel] ? `${name}: another picture` : `${name}: bring in a picture`}
              title={`${name}: ${tells}`}
              disabled={busy !== null}
              onClick={() => {
                wanted.current = channel;
                input.current?.click();
              }}
              onDragOver={(e) => {
                e.preventDefault();
                setOver(channel);
              }}
              onDragLeave={() => setOver(null)}
              onDrop={(e) => {
                e.preventDefault();
                e.stopPropagation();
                setOver(null);
                void take(channel, e.dataTransfer.files[0]);
              }}
            >
              {held?.[channel] ? (
                <img src={api.smallPicture(held[channel])} alt="" />
              ) : (
                <span aria-hidden>{busy === channel ? "…" : "+"}</span>
              )}
            </button>
            <span>{name}</span>
            {held?.[channel] && (
              <button
                className={cls("away")}
                aria-label={`Take the picture of ${channel} away`}
                onClick={() => without(channel)}
              >
                ×
              </button>
            )}
          </div>
        ))}
      </div>
      <input
        ref={input}
        type="file"
        hidden
        aria-label="File of the picture"
        accept=".png,.jpg,.jpeg,.tif,.tiff,.exr"
        onChange={(e) => {
          void take(wanted.current, e.target.files?.[0]);
          e.target.value = "";
        }}
      />
      {held?.height && !held.normal && (
        <label className={cls("line")}>
          <span>Height of white over black</span>
          <NumberField
            label="Height of white over black, m"
            unit="m"
            value={held.height_m ?? 0.01}
            min={0.0001}
            max={1}
            step={0.001}
            onChange={(v) => v !== null && put({ pictures: { ...held, height_m: v } }, "Height")}
          />
        </label>
      )}
    </>
  );
}
