import { api, type LeafOffer, type Occasion } from "../api/client";
import { useAnswer, useModels } from "../state/server";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import { NumberField } from "../ui/NumberField";
import { useHand } from "./hand";
import { placeThing } from "./placing";
import styles from "./leaves.module.css";

const cls = classesOf(styles);

interface Props {
  slug: string;
  occasion: Occasion;
  wanted: NonNullable<ReturnType<typeof useHand.getState>["leaves"]>;
}

/** Dapple a floor or a wall: point at it, and choose among the trees that stand in the sun's way to it at this hour. */
export function LeafShadow({ slug, occasion, wanted }: Props) {
  const { put } = useHand();
  const { spot, across } = wanted;
  const { answer: offers, refusal } = useOffers(slug, occasion, wanted);
  const place = async ({ family, parameters, position }: LeafOffer) => {
    const key = await placeThing(slug, { family, parameters, position, normal: [0, 0, 1], turn_deg: 0 });
    if (key) put({ leaves: null, chosen: [key] });
  };
  return (
    <section aria-label="Leaf shadow">
      <div className={cls("head")}>
        <b>Leaf shadow at {occasion.name}</b>
        <Button size="sm" variant="outline-dark" onClick={() => put({ leaves: null })}>
          Leave it
        </Button>
      </div>
      <p className="quiet mb-1">
        {spot
          ? `On ${spot.object || "the surface"} at ${spot.point.map((v) => v.toFixed(1)).join(", ")} m; point again for another place.`
          : "Point at the floor or wall that is to be dappled, in the picture or the plan."}
      </p>
      <label className={cls("across")}>
        <span>Width of the place</span>
        <NumberField
          label="Width of the place that is to be dappled, in metres"
          unit="m"
          value={across}
          min={0.1}
          max={20}
          step={0.2}
          onChange={(v) => v && put({ leaves: { ...wanted, across: v } })}
        />
      </label>
      <div aria-live="polite">
        {refusal && <p className="error-text">{refusal}</p>}
        {spot && !offers && !refusal && (
          <p className="quiet">Following the sun’s line, and trying trees in it…</p>
        )}
        {offers?.length === 0 && (
          <p>
            The sun comes here, but no tree can stand in its way: the ground along its line is built on,
            water, or too far below. Choose another hour or another place.
          </p>
        )}
        {offers && offers.length > 0 && (
          <p className="quiet mb-1">
            The place as the sun lights it through each tree, the nearest first. Press one to plant it.
          </p>
        )}
      </div>
      <ul className={cls("offers")}>
        {(offers ?? []).map((offer) => (
          <li key={`${offer.family} ${offer.distance_m} ${offer.height_m}`}>
            <button className={cls("offer")} onClick={() => void place(offer)}>
              <img src={offer.picture} alt="" width={128} height={128} />
              <b>
                {offer.name}, {offer.height_m.toFixed(1)} m high
              </b>{" "}
              <span className="quiet number">
                {offer.distance_m.toFixed(0)} m away; edges {edgeText(offer.edge_m)} wide; takes{" "}
                {Math.round(100 * offer.shade)} % of the sun
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

const edgeText = (metres: number) =>
  metres < 0.095 ? `${(100 * metres).toFixed(1)} cm` : `${Math.round(100 * metres)} cm`;

/** Trees for the place, or why there are none; neither while they are looked for. */
function useOffers(slug: string, occasion: Occasion, { spot, across }: Props["wanted"]) {
  const { key, when, season, sun } = occasion;
  return useAnswer(
    ["leaf shadow", slug, spot, across, key, when, season, sun, useModels()],
    () =>
      api.leafShadow(slug, { occasion: key, point: spot!.point, normal: spot!.normal, reach_m: across / 2 }),
    { ready: spot !== null, keep: false },
  );
}
