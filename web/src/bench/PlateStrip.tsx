import { useCallback } from "react";

import { api, type Plate } from "../api/client";
import { useAnswer } from "../state/server";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { clockText } from "../ui/format";
import { PartMenu } from "../ui/PartMenu";
import type { LivePicture } from "./useBench";
import { classesOf } from "../ui/classes";
import styles from "./PlateStrip.module.css";

const cls = classesOf(styles);

interface Props {
  live: LivePicture;
  plates: Plate[];
  chosen: number | null;
  /** Plates that are held against what is looked at. */
  others: readonly number[];
  /** Compare a plate together with the others, or no longer. */
  together: (id: number) => void;
  choose: (id: number | null) => void;
  /** Keep the live picture as a plate. */
  keep: () => void;
  label: string;
  slug: string;
  /** How long the next plate will take. */
  foretold?: React.ReactNode;
  /** Open a view at an occasion. */
  openCell: (view: string, occasion: string) => void;
}

/** The live picture and earlier plates of this view and occasion: named, put in order, made again, taken away. */
export function PlateStrip(props: Props) {
  const { live, plates, chosen, others, together, choose, keep, label, slug, openCell } = props;
  const { commit, notify, step, load } = useStore();
  const about = (p: Plate) => p.name || `${p.quality} of ${clockText(p.created)}`;
  const edit = useCallback(
    (label: string, plate: Plate, field: "name" | "rank" | "note" | "starred", value: unknown) =>
      commit(label, [{ part: "plate", key: String(plate.id), at: [field], value }]),
    [commit],
  );
  /** Between its new neighbours; a plate without a rank stands by its number. */
  const move = (index: number, by: -1 | 1) => {
    const rest = plates.filter((_, k) => k !== index);
    const [before, after] = [rest[index + by - 1], rest[index + by]];
    const rank = (p: Plate) => p.rank ?? p.id;
    const to =
      before && after ? (rank(before) + rank(after)) / 2 : before ? rank(before) - 1 : rank(after) + 1;
    void edit("Move plate", plates[index], "rank", to);
  };
  const again = async (plate: Plate) => {
    try {
      await api.makeAgain(plate.id);
      notify("It is made again, from the settings it keeps.");
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  const { answer } = useAnswer(
    ["thinning", slug, plates.length, plates.filter((p) => p.starred).length],
    () => api.thinning(slug),
  );
  const old = answer?.plates.length ?? 0;
  const back = async (plate: Plate, asNew: boolean) => {
    try {
      const made = await api.settingsBack(plate.id, asNew);
      await load(slug);
      choose(null);
      if (asNew) openCell(made.view, made.occasion);
      notify(
        `The settings of “${about(plate)}” are ${asNew ? "a view and an occasion of their own" : "back"}.`,
        "info",
        [{ label: "Undo", act: () => void step("undo") }],
      );
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  const thin = async () => {
    try {
      await api.thin(slug);
      await load(slug);
      notify(`${old} old plates are put away. ${answer!.rule}`, "info", [
        { label: "Undo", act: () => void step("undo") },
      ]);
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  const takeAway = async (plate: Plate) => {
    if (chosen === plate.id) choose(null);
    if (await commit("Take plate away", [{ part: "plate", key: String(plate.id), value: null }]))
      notify(`Plate “${about(plate)}” is taken away.`, "info", [
        { label: "Undo", act: () => void step("undo") },
      ]);
  };
  return (
    <div className={cls("strip")} role="group" aria-label="Earlier plates" tabIndex={-1}>
      <div className="strip-item">
        <button className={cls("strip-plate")} aria-pressed={chosen === null} onClick={() => choose(null)}>
          {live.url ? <img src={live.url} alt="Live picture" /> : <div className="blank" />}
          <span>
            now <span className="number">live</span>
          </span>
        </button>
        <Button
          size="sm"
          variant="link"
          className="more"
          disabled={!live.url}
          title="Keep the live picture as a plate (K)"
          onClick={keep}
        >
          Keep live
        </Button>
      </div>
      {props.foretold}
      {plates.map((p, k) => (
        <div className="strip-item" key={p.id}>
          <button
            className={cls(`strip-plate ${others.includes(p.id) ? "other" : ""}`)}
            aria-pressed={chosen === p.id}
            onClick={(e) => (e.shiftKey ? together(p.id) : choose(p.id))}
            title={[
              `${about(p)}, ${p.width} × ${p.height}${p.seconds ? `, made in ${Math.round(p.seconds)} s` : ""}`,
              p.note,
              "Shift: compare it, too",
            ]
              .filter(Boolean)
              .join("\n")}
          >
            <img src={api.thumb(p.id)} alt={`${about(p)}, ${label}`} loading="lazy" />
            <span>
              <span className={cls("strip-name")}>
                {p.starred && <b title="Starred: it is never thinned">★ </b>}
                {p.name || p.quality}
              </span>{" "}
              <span className="number">{clockText(p.created)}</span>
            </span>
          </button>
          <PartMenu
            about={`plate “${about(p)}”`}
            name={p.name}
            optional
            rename={(name) => void edit("Rename plate", p, "name", name)}
            items={[
              {
                name: p.starred ? "Take the star off" : "Star",
                act: () => void edit("Star of a plate", p, "starred", !p.starred),
              },
              {
                name: others.includes(p.id) ? "Compare no longer" : "Compare, too",
                act: () => together(p.id),
              },
              { name: "Its settings, over these", act: () => void back(p, false) },
              { name: "Its settings, as a view of their own", act: () => void back(p, true) },
              { name: "Make again", act: () => void again(p) },
              { name: "Left", disabled: k === 0, act: () => move(k, -1) },
              { name: "Right", disabled: k === plates.length - 1, act: () => move(k, 1) },
              { name: "Take away", act: () => void takeAway(p) },
              ...(old > 0 ? [{ name: `Thin old plates (${old})`, act: () => void thin() }] : []),
            ]}
          />
        </div>
      ))}
      {plates.length === 0 && (
        <p className="quiet m-0 align-self-center">
          No plate yet. “Make plate” traces this picture with its settings; “Keep live” keeps it as it is now.
        </p>
      )}
    </div>
  );
}
