import type { Look } from "../api/client";
import { api } from "../api/client";
import type { LiveHeader } from "../api/live";
import { useServer } from "../state/server";
import { classesOf } from "../ui/classes";
import { useTried } from "./useTried";
import styles from "./finish.module.css";

const cls = classesOf(styles);
const NONE: Look[] = [];

interface Props {
  at: { slug: string; view: string; occasion: string };
  header: LiveHeader | null;
  own: Look[];
  chosen: string;
  /** A look of the project. */
  choose: (key: string) => void;
  /** One that ships, to be taken into the project. */
  take: (look: Look) => void;
}

/** The looks of the project and those that ship, as pictures of what is on the bench. */
export function LookTiles({ at, header, own, chosen, choose, take }: Props) {
  const ships = useServer(["looks"], api.readyLooks, { told: true, fixed: true }) ?? NONE;
  const ready = ships.filter((look) => !own.some((o) => o.key === look.key));
  const mine = useTried(at, own.slice(0, 16), 120, header);
  const theirs = useTried(at, ready, 120, header);
  const tile = (look: Look, picture: string | undefined, act: () => void, on: boolean) => (
    <button
      key={look.key}
      type="button"
      className={cls(on ? "tile on" : "tile")}
      aria-pressed={on}
      onClick={act}
    >
      {picture ? <img src={picture} alt="" draggable={false} /> : <span className={cls("blank")} />}
      <span>{look.name}</span>
    </button>
  );
  return (
    <div className={cls("looks")} role="group" aria-label="Looks by eye">
      {own.map((look, k) => tile(look, mine?.[k], () => choose(look.key!), look.key === chosen))}
      {ready.map((look, k) => tile(look, theirs?.[k], () => take(look), false))}
    </div>
  );
}
