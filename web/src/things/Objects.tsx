import { useMemo, useState } from "react";

import { api, type Occasion, type Project } from "../api/client";
import type { Hands } from "../bench/useBench";
import { classesOf } from "../ui/classes";
import { Button } from "../ui/Button";
import { PatientImage } from "../ui/PatientImage";
import { withGroup } from "./groups";
import { useHand } from "./hand";
import { LeafShadow } from "./LeafShadow";
import { Numbers } from "./Numbers";
import { BringIn, OwnMenu } from "./OwnObjects";
import { makeAnew } from "./placing";
import { ThingSheet } from "./ThingSheet";
import { useFamilies } from "./useThings";
import tiles from "../ui/tiles.module.css";
import styles from "./things.module.css";

/** A patch of floor or wall is so wide at first, in metres. */
const FIRST_ACROSS_M = 1.6;
const cls = classesOf(styles, tiles);

interface Props {
  slug: string;
  project: Project;
  occasion: Occasion;
  hands: Hands;
}

/** The catalogue of objects, and the ones that stand: choose a family, then press where it is to stand. */
export function Objects({ slug, project, occasion, hands }: Props) {
  const families = useFamilies();
  const { armed, chosen, leaves, put } = useHand();
  const [replacing, setReplacing] = useState(false);
  const groups = useMemo(() => [...new Set(families.map((f) => f.group))], [families]);
  const objects = (project.placements ?? []).filter((p) => p.made);
  const inHand = chosen
    .map((key) => (project.placements ?? []).find((p) => p.key === key))
    .filter((p) => p !== undefined);
  const family = families.find((f) => f.key === armed?.family);
  if (inHand.length > 0 && !replacing)
    return (
      <ThingSheet
        key={inHand[0].key}
        {...{ slug, project, hands, families }}
        things={inHand}
        replace={() => setReplacing(true)}
      />
    );
  if (leaves) return <LeafShadow slug={slug} occasion={occasion} wanted={leaves} />;
  const take = async (key: string) => {
    if (!replacing) {
      put({ armed: armed?.family === key ? null : { family: key, parameters: {} } });
      return;
    }
    setReplacing(false);
    await makeAnew(slug, inHand[0].key, key, {});
  };
  return (
    <>
      {replacing ? (
        <p>
          What stands in the place of {inHand[0]?.name}?{" "}
          <Button size="sm" variant="outline-dark" onClick={() => setReplacing(false)}>
            Leave it
          </Button>
        </p>
      ) : family ? (
        <section aria-label={`About to be placed: ${family.name}`} className={cls("armed")}>
          <img src={api.familyPicture(family.key, armed!.parameters)} alt="" width={92} height={92} />
          <div>
            <b>{family.name}</b>
            <p className="quiet mb-1">Press in the picture, the plan or the stage view to place it.</p>
            <Button size="sm" variant="outline-dark" onClick={() => put({ armed: null })}>
              Put it away
            </Button>
          </div>
          <Numbers
            family={family}
            values={armed!.parameters}
            set={(parameters) => put({ armed: { family: family.key, parameters } })}
          />
        </section>
      ) : (
        <p className="quiet">Choose an object, then press where it is to stand.</p>
      )}
      {objects.length > 0 && !replacing && (
        <details>
          <summary>
            {objects.length === 1 ? "1 object stands" : `${objects.length} objects stand`} on the stage
          </summary>
          <ul className={cls("standing")}>
            {objects.map((p) => (
              <li key={p.key}>
                <button onClick={() => put({ chosen: withGroup(objects, p.key), armed: null })}>
                  {p.name}
                </button>
              </li>
            ))}
          </ul>
        </details>
      )}
      <div className={cls("acts")}>
        <BringIn />
        <Button
          size="sm"
          variant="outline-dark"
          onClick={() => put({ leaves: { spot: null, across: FIRST_ACROSS_M }, armed: null })}
        >
          Leaf shadow…
        </Button>
      </div>
      {groups.map((group) => (
        <section key={group} aria-label={group}>
          <h3>{group}</h3>
          <div className={cls("swatches")}>
            {families
              .filter((f) => f.group === group)
              .map((f) => (
                <div key={f.key}>
                  <button
                    className={cls("swatch family")}
                    aria-pressed={armed?.family === f.key}
                    onClick={() => void take(f.key)}
                  >
                    <PatientImage src={api.familyPicture(f.key)} alt="" width={72} height={72} />
                    <span>{f.name}</span>
                  </button>
                  {f.own != null && <OwnMenu family={f} />}
                </div>
              ))}
          </div>
        </section>
      ))}
    </>
  );
}
