import { api, type Change } from "../api/client";
import { useStore } from "../state/store";
import { PartMenu } from "./PartMenu";

type Kept = "view" | "occasion" | "look" | "sequence";

/** How each is called, and where its neighbours stand on the screen. */
const WORDS: Record<Kept, { title: string; earlier: string; later: string }> = {
  view: { title: "View", earlier: "Up", later: "Down" },
  occasion: { title: "Occasion", earlier: "Left", later: "Right" },
  look: { title: "Look", earlier: "Up", later: "Down" },
  sequence: { title: "Sequence", earlier: "Left", later: "Right" },
};

interface Props {
  slug: string;
  part: Kept;
  /** All of its like, in their order. */
  items: { key?: string; name?: string }[];
  item: { key?: string; name?: string };
  /** Told the key of a copy just made. */
  copied?: (key: string) => void;
}

/** A view, an occasion, a look or a sequence as a whole: renamed, copied, put in order, taken away; each one step of undo. */
export function KeptMenu({ slug, part, items, item, copied }: Props) {
  const { commit, adopt, notify, step, settle, settled } = useStore();
  const { key = "", name = "" } = item;
  const { title, earlier, later } = WORDS[part];
  const place = items.findIndex((i) => i.key === key);
  const change = (label: string, what: Omit<Change, "part" | "key">) =>
    commit(label, [{ part, key, ...what }]);
  const copy = async () => {
    try {
      await settle();
      const made = await api.copy(slug, part, key);
      adopt(made.project);
      copied?.(made.key);
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  const takeAway = async () => {
    // What stands in the pictures of a view alone goes with it.
    const own = part === "view" ? (settled()?.cutouts ?? []).filter((c) => c.view === key) : [];
    const gone: Change[] = [{ part, key, value: null }];
    for (const cutout of own) gone.push({ part: "cutout", key: cutout.key, value: null });
    if (await commit(`Take ${part} away`, gone))
      notify(`${title} “${name}” is taken away.`, "info", [{ label: "Undo", act: () => void step("undo") }]);
  };
  return (
    <PartMenu
      about={`${part} “${name}”`}
      name={name}
      rename={(to) => void change(`Rename ${part}`, { at: ["name"], value: to })}
      items={[
        { name: "Duplicate", act: () => void copy() },
        {
          name: earlier,
          disabled: place === 0,
          act: () => void change(`Move ${part}`, { place: place - 1 }),
        },
        {
          name: later,
          disabled: place === items.length - 1,
          act: () => void change(`Move ${part}`, { place: place + 1 }),
        },
        {
          name: "Take away",
          disabled: part === "look" && items.length === 1,
          why: "Pictures are finished by a look: keep one",
          act: () => void takeAway(),
        },
      ]}
    />
  );
}
