import { useEffect, useRef, useState } from "react";

import type { Plate } from "../api/client";
import { Comparison } from "../judge/Comparison";
import { Legend, PictureModes } from "../meter/PictureModes";
import { useStore } from "../state/store";
import { clamp, clockText } from "../ui/format";
import { useDrag } from "../ui/useDrag";
import type { LivePicture } from "./useBench";
import type { useWalk } from "./useWalk";
import type { Drop } from "../surfaces/useSurfaceDrop";
import { classesOf } from "../ui/classes";
import { SaveLinks } from "./SaveLinks";
import styles from "./Easel.module.css";

const cls = classesOf(styles);

interface Props {
  live: LivePicture;
  shown: Plate | null;
  against: Plate | null;
  comparing: boolean;
  /** Why nothing can be compared, where that is so. */
  cannotCompare: string | null;
  making: Plate | null;
  label: string;
  /** Width over height of the view's picture. */
  aspect: number;
  /** Pointing at the picture: place from the left and top, 0 to 1. */
  point?: (x: number, y: number) => void;
  /** Dragging over the picture, before the pointer is let go. */
  drag?: (x: number, y: number) => void;
  /** The pointer is pressed on the picture, before it is dragged or let go. */
  press?: (x: number, y: number, shift: boolean) => void;
  /** What is laid over the picture. */
  over?: React.ReactNode;
  /** What may be dragged onto the picture and let go there. */
  drop?: Drop;
  /** Moving the lens by eye. */
  walk?: ReturnType<typeof useWalk>;
  /** How the live picture is shown, and the meter's switch. */
  modes: React.ComponentProps<typeof PictureModes>;
  /** Where the meter was pointed, and its radius in picture widths. */
  metered: { x: number; y: number; radius: number } | null;
  /** A word beside the live picture. */
  beside?: React.ReactNode;
  /** The project and its plates, to be saved. */
  saves: { slug: string; plates: Plate[] };
  /** Further plates that are compared. */
  more: Plate[];
  /** A plate as it is looked at now. */
  urlOf: (plate: Plate) => string;
  /** A picture that stands in for what is looked at while its lights are tried. */
  instead?: string | null;
  /** Set the lens to an exposure value. */
  setEv?: (ev100: number) => void;
}

/** The large picture: live, or a plate, or two under one slider. */
export function Easel(props: Props) {
  const { live, shown, against, comparing, cannotCompare, making, label, point, drag, walk, modes, metered } =
    props;
  const { setEv, aspect, drop } = props;
  const [cross, setCross] = useState<[number, number] | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const source = props.instead ?? (shown ? props.urlOf(shown) : live.url);
  const preview = !shown && making?.job ? live.previews[making.job.id] : undefined;
  const header = live.header;
  const acts = !comparing && (point || walk);

  // While dragged with something in hand, it follows; with the lens in hand, the view turns.
  const from = useRef<[number, number]>([0, 0]);
  const moved = useRef(false);
  const handlers = useDrag({
    start: (e) => {
      if (!acts) return false;
      from.current = [e.clientX, e.clientY];
      moved.current = false;
      if (!point) walk?.press();
      else props.press?.(...placeIn(e, frame.current!), e.shiftKey);
    },
    move: (e) => {
      const [x, y] = [e.clientX - from.current[0], e.clientY - from.current[1]];
      if (!moved.current && Math.hypot(x, y) < 4) return;
      moved.current = true;
      if (point) drag?.(...placeIn(e, frame.current!));
      else turn(e, false);
    },
    end: (e) => {
      if (point) point(...placeIn(e, frame.current!));
      else if (moved.current) turn(e, true);
    },
    cancel: () => useStore.getState().setDraft([]),
  });
  const turn = (e: React.PointerEvent, done: boolean) => {
    const box = frame.current!.getBoundingClientRect();
    const [x, y] = [e.clientX - from.current[0], e.clientY - from.current[1]];
    walk?.drag(x / box.width, y / box.height, box.width / box.height, done);
  };
  const walks = Boolean(walk && acts && !point);
  useEffect(() => {
    const element = frame.current;
    if (!element || !walks) return;
    // React listens to the wheel passively: the page would scroll with it.
    const onWheel = (e: WheelEvent) => {
      e.preventDefault();
      walk!.wheel(e.deltaY > 0 ? -1 : 1);
    };
    element.addEventListener("wheel", onWheel, { passive: false });
    return () => element.removeEventListener("wheel", onWheel);
  }, [walks, walk]);

  const onKey = (e: React.KeyboardEvent) => {
    if (!acts || e.target !== e.currentTarget || e.ctrlKey || e.metaKey || e.altKey) return;
    if (!point) {
      if (walk!.key(e)) e.preventDefault();
      return;
    }
    const by = e.shiftKey ? 0.1 : 0.01;
    const to = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }[e.key];
    const [x, y] = cross ?? [0.5, 0.5];
    if (to) setCross([clamp(x + to[0], 0, 1), clamp(y + to[1], 0, 1)]);
    else if (e.key === "Enter" || e.key === " ") point(x, y);
    else return;
    e.preventDefault();
  };
  const told = shown ?? header;
  const lost = {
    open: null,
    lost: "no connection to the server, trying again",
    restarting: "the renderer is starting again",
  }[live.connection];
  return (
    <div
      className={cls("mount")}
      style={{ "--format": shown ? shown.width / shown.height : aspect } as React.CSSProperties}
    >
      <div
        ref={frame}
        className={cls(`frame ${point ? "pointing" : walks ? "walking" : ""}`)}
        data-testid="picture"
        role="group"
        tabIndex={acts ? 0 : -1}
        aria-label={
          point
            ? "Picture: arrow keys move the cross, Enter points"
            : walks
              ? "Picture: arrow keys look around, with Shift they walk, Page keys rise and sink"
              : "Picture"
        }
        {...handlers}
        onDragOver={(e) => {
          if (!drop || comparing || !e.dataTransfer.types.includes(drop.kind)) return;
          e.preventDefault();
          drop.over(...placeIn(e, frame.current!), e.shiftKey);
        }}
        onDragLeave={() => drop?.leave()}
        onDrop={(e) => {
          const key = drop && !comparing ? e.dataTransfer.getData(drop.kind) : "";
          if (!key) return;
          e.preventDefault();
          drop!.let(...placeIn(e, frame.current!), key, e.shiftKey);
        }}
        onKeyDown={onKey}
        onFocus={(e) =>
          point && e.currentTarget.matches(":focus-visible") && setCross((was) => was ?? [0.5, 0.5])
        }
        onBlur={() => setCross(null)}
      >
        {source && comparing ? null : source ? (
          <img src={source} alt={shown ? `Plate: ${label}` : `Live picture: ${label}`} draggable={false} />
        ) : (
          <div className={cls("note")}>{live.error ?? "Working out the light…"}</div>
        )}
        {!comparing && props.over}
        {drop?.told && (
          <div className={cls("drop-told")} role="status">
            {drop.told}
          </div>
        )}
        {!shown && !comparing && header?.legend && <Legend legend={header.legend} />}
        {cross && point && !comparing && (
          <span className="cross" style={{ left: `${cross[0] * 100}%`, top: `${cross[1] * 100}%` }} />
        )}
        {metered && !comparing && (
          <span
            className={cls("metered")}
            style={{
              left: `${metered.x * 100}%`,
              top: `${metered.y * 100}%`,
              width: `max(${metered.radius * 200}%, 11px)`,
              aspectRatio: 1,
            }}
          />
        )}
        {!shown && !comparing && header?.advice && modes.mode === "picture" && (
          <div className={cls("advice")} role="note" aria-live="polite">
            {header.advice.text}
            {header.advice.ev100 !== null && setEv && (
              <button
                className="btn btn-sm btn-dark"
                onPointerDown={(e) => e.stopPropagation()}
                onClick={() => setEv(header.advice!.ev100!)}
              >
                Do it
              </button>
            )}
          </div>
        )}
        {source && comparing && against && (
          <Comparison
            aspect={shown ? shown.width / shown.height : aspect}
            pictures={[
              {
                url: source,
                told: shown ? toldOf(shown) : "now",
                alt: shown ? `Plate: ${label}` : `Live picture: ${label}`,
              },
              ...[against, ...props.more.filter((p) => p.id !== against.id && p.id !== shown?.id)].map(
                (p) => ({
                  url: props.urlOf(p),
                  told: toldOf(p),
                  alt: `Plate to compare with: ${label}`,
                }),
              ),
            ]}
          />
        )}
        {preview && !comparing && (
          <img
            src={preview}
            alt="The plate in the making"
            style={{ inset: "auto 8px 8px auto", width: "26%", height: "auto", border: "1px solid #fff" }}
          />
        )}
      </div>
      {props.beside}
      {/* Said aloud when it changes; the words of the caption change with every pass. */}
      <span className="visually-hidden" aria-live="assertive">
        {lost}
      </span>
      <div className={cls("caption number")}>
        <span className={cls("caption-word")}>
          {live.error && source ? (
            <span className="error-text" role="alert">
              {live.error}
            </span>
          ) : cannotCompare ? (
            <span aria-live="polite">{cannotCompare}</span>
          ) : told ? (
            told.true_to_place ? (
              "true to date and place"
            ) : (
              "sun set by hand"
            )
          ) : (
            ""
          )}
        </span>
        {!shown && <PictureModes {...modes} />}
        <span data-testid="picture-state" className={cls("caption-word")}>
          {lost ??
            (shown
              ? `${shown.quality} ${shown.width} × ${shown.height}, ${shown.samples} samples, EV ${shown.ev100.toFixed(1)}`
              : header
                ? `live ${header.width} × ${header.height}, ${header.samples} samples${header.last ? "" : "…"}`
                : "")}
        </span>
        {shown && <SaveLinks {...props.saves} shown={shown} />}
      </div>
    </div>
  );
}

const toldOf = (p: Plate) => `${p.name || p.quality} of ${clockText(p.created)}`;

/** Where the pointer is, from the left and the top, 0 to 1. */
function placeIn(e: { clientX: number; clientY: number }, frame: HTMLElement): [number, number] {
  const box = frame.getBoundingClientRect();
  return [clamp((e.clientX - box.left) / box.width, 0, 1), clamp((e.clientY - box.top) / box.height, 0, 1)];
}
