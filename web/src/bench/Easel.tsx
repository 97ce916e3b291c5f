import { useState } from "react";

import { api, type Plate } from "../api/client";
import { Legend, PictureModes } from "../meter/PictureModes";
import { clockText } from "../ui/format";
import type { LivePicture } from "./useBench";

interface Props {
  live: LivePicture;
  shown: Plate | null;
  against: Plate | null;
  comparing: boolean;
  nothingToCompare: boolean;
  making: Plate | null;
  label: string;
  /** Pointing at the picture: place from the left and top, 0 to 1. */
  point?: (x: number, y: number) => void;
  /** Dragging over the picture, before the pointer is let go. */
  drag?: (x: number, y: number) => void;
  /** How the live picture is shown, and the meter's switch. */
  modes: React.ComponentProps<typeof PictureModes>;
  /** Where the meter was pointed, and its radius in picture widths. */
  metered: { x: number; y: number; radius: number } | null;
  /** Set the lens to an exposure value. */
  setEv?: (ev100: number) => void;
}

/** The large picture: live, or a plate, or two under one slider. */
export function Easel({
  live,
  shown,
  against,
  comparing,
  nothingToCompare,
  making,
  label,
  point,
  drag,
  modes,
  metered,
  setEv,
}: Props) {
  const [split, setSplit] = useState(50);
  const source = shown ? api.picture(shown.id) : live.url;
  const preview = !shown && making?.job ? live.previews[making.job.id] : undefined;
  const header = live.header;
  return (
    <div className="mount">
      <div
        className={`frame ${point ? "pointing" : ""}`}
        data-testid="picture"
        onClick={(e) => point && !comparing && point(...placeIn(e))}
        onPointerMove={(e) => e.buttons === 1 && drag && !comparing && drag(...placeIn(e))}
      >
        {source ? (
          <img src={source} alt={shown ? `Plate: ${label}` : `Live picture: ${label}`} draggable={false} />
        ) : (
          <div className="note">{live.error ?? "Working out the light…"}</div>
        )}
        {!shown && !comparing && header?.legend && <Legend legend={header.legend} />}
        {metered && !comparing && (
          <span
            className="metered"
            style={{
              left: `${metered.x * 100}%`,
              top: `${metered.y * 100}%`,
              width: `max(${metered.radius * 200}%, 11px)`,
              aspectRatio: 1,
            }}
          />
        )}
        {!shown && !comparing && header?.advice && modes.mode === "picture" && (
          <div className="advice" role="note" aria-live="polite">
            {header.advice.text}
            {header.advice.ev100 !== null && setEv && (
              <button
                className="btn btn-sm btn-dark"
                onClick={(e) => {
                  e.stopPropagation();
                  setEv(header.advice!.ev100!);
                }}
              >
                Do it
              </button>
            )}
          </div>
        )}
        {source && comparing && against && (
          <>
            <img
              src={api.picture(against.id)}
              alt={`Plate to compare with: ${label}`}
              draggable={false}
              style={{ clipPath: `inset(0 ${100 - split}% 0 0)` }}
            />
            <div className="divider" style={{ left: `${split}%` }} />
            <span className="side" style={{ left: 8 }}>
              {against.quality} of {clockText(against.created)}
            </span>
            <span className="side" style={{ right: 8 }}>
              {shown ? `${shown.quality} of ${clockText(shown.created)}` : "now"}
            </span>
            <input
              className="compare"
              type="range"
              min={0}
              max={100}
              step={0.5}
              value={split}
              aria-label="Slider between the two pictures"
              onChange={(e) => setSplit(Number(e.target.value))}
            />
          </>
        )}
        {preview && !comparing && (
          <img
            src={preview}
            alt="The plate in the making"
            style={{ inset: "auto 8px 8px auto", width: "26%", height: "auto", border: "1px solid #fff" }}
          />
        )}
      </div>
      <div className="caption number">
        <span>
          {live.error && source ? (
            <span className="error-text" role="alert">
              {live.error}
            </span>
          ) : nothingToCompare ? (
            "Make a plate first, then compare with it"
          ) : shown ? (
            shown.true_to_place ? (
              "true to date and place"
            ) : (
              "sun set by hand"
            )
          ) : header ? (
            header.true_to_place ? (
              "true to date and place"
            ) : (
              "sun set by hand"
            )
          ) : (
            ""
          )}
        </span>
        {!shown && <PictureModes {...modes} />}
        <span data-testid="picture-state">
          {live.connection !== "open"
            ? live.connection === "lost"
              ? "no connection to the server, trying again"
              : "the renderer is starting again"
            : shown
              ? `${shown.quality} ${shown.width} × ${shown.height}, ${shown.samples} samples, EV ${shown.ev100.toFixed(1)}`
              : header
                ? `live ${header.width} × ${header.height}, ${header.samples} samples${header.last ? "" : "…"}`
                : ""}
        </span>
        {shown && (
          <span>
            <a href={api.picture(shown.id)} download={`${shown.view}-${shown.occasion}-${shown.id}.png`}>
              Save PNG
            </a>{" "}
            <a href={api.linear(shown.id)} download={`${shown.view}-${shown.occasion}-${shown.id}.exr`}>
              Save EXR
            </a>
          </span>
        )}
      </div>
    </div>
  );
}

/** Where the pointer is, from the left and the top, 0 to 1. */
function placeIn(e: React.MouseEvent): [number, number] {
  const box = e.currentTarget.getBoundingClientRect();
  return [(e.clientX - box.left) / box.width, (e.clientY - box.top) / box.height];
}
