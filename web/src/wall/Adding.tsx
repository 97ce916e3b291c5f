import { api, type Occasion, type View } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { freeKey } from "../ui/format";

/** One more occasion. */
export function AddOccasion({ occasions }: { occasions: Occasion[] }) {
  const commit = useStore((s) => s.commit);
  const add = () => {
    const key = freeKey("occasion", new Set(occasions.map((o) => o.key)));
    const year = occasions.at(-1)?.when.slice(0, 4) ?? String(new Date().getFullYear());
    const name = `Occasion ${occasions.length + 1}`;
    void commit("Add occasion", [
      { part: "occasion", key, value: { key, name, when: `${year}-06-21T12:00:00` } },
    ]);
  };
  return (
    <Button
      size="sm"
      variant="outline-dark"
      title="June noon; change its date and hour on the bench"
      onClick={add}
    >
      Add an occasion
    </Button>
  );
}

/** One more view, that sees the whole stage. */
export function AddView({ slug, views }: { slug: string; views: View[] }) {
  const { commit, notify } = useStore();
  const add = async () => {
    try {
      const { overview } = await api.stage(slug);
      const key = freeKey("view", new Set(views.map((v) => v.key)));
      await commit("Add view", [
        { part: "view", key, value: { key, name: `View ${views.length + 1}`, ...overview } },
      ]);
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  return (
    <Button size="sm" variant="outline-dark" onClick={() => void add()}>
      Add a view
    </Button>
  );
}

/** A project without views: add a first view and occasion that see the whole stage. */
export function Beginning({ slug }: { slug: string }) {
  const { saved, commit } = useStore();
  const hasModel = (saved?.description.placements ?? []).length > 0;
  const begin = async () => {
    const { overview } = await api.stage(slug);
    const year = new Date().getFullYear();
    await commit("First view and occasion", [
      {
        part: "view",
        key: "first-view",
        value: {
          key: "first-view",
          name: "First view",
          ...overview,
        },
      },
      {
        part: "occasion",
        key: "first-occasion",
        value: { key: "first-occasion", name: "June noon", when: `${year}-06-21T12:00:00` },
      },
    ]);
  };
  return (
    <div className="sheet" style={{ maxWidth: 640 }}>
      <h2 style={{ fontSize: 21 }}>{hasModel ? "Look at it" : "Nothing stands on the stage yet"}</h2>
      <p className="mt-2">
        {hasModel
          ? "The model is on the stage. Add a first view and a first occasion; both can be changed on the bench."
          : "Drop a model here, or open it with the button above: glTF, OBJ, COLLADA, PLY or STL; with the files it refers to, or their folder. Then add a first view and occasion."}
      </p>
      {hasModel && (
        <Button variant="dark" onClick={() => void begin()}>
          Add a view and an occasion
        </Button>
      )}
    </div>
  );
}
