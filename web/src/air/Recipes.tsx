import { useState } from "react";
import { Form } from "react-bootstrap";

import { api, type Change, type WeatherRecipe } from "../api/client";
import type { Hands } from "../bench/useBench";
import { useModels, useServer } from "../state/server";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { classesOf } from "../ui/classes";
import styles from "./air.module.css";

const cls = classesOf(styles);

interface Props {
  slug: string;
  view: string;
  occasion: string;
  hands: Hands;
}

/** Weather to start from: each recipe opens to the lines it sets, of which each can be left out, and taken back by itself. */
export function Recipes({ slug, view, occasion, hands }: Props) {
  const models = useModels();
  const revision = useStore((s) => s.saved?.revision);
  const found = useServer(
    ["recipes", slug, models, view, occasion, revision],
    () => api.recipes(slug, view, occasion),
    {
      afterMs: 400,
    },
  );
  const [open, setOpen] = useState<string | null>(null);
  const [out, setOut] = useState<ReadonlySet<number>>(new Set());
  const lay = (recipe: WeatherRecipe) => {
    recipe.lines.forEach((line, k) => {
      if (!out.has(k))
        hands.changes(`${recipe.name}: ${line.says}`.slice(0, 120), line.changes as Change[], true);
    });
    setOpen(null);
  };
  return (
    <>
      <h3>Start from</h3>
      <ul className={cls("recipes")}>
        {found?.map((recipe) => (
          <li key={recipe.key} className={cls("recipe")}>
            <button
              aria-expanded={open === recipe.key}
              onClick={() => {
                setOpen(open === recipe.key ? null : recipe.key);
                setOut(new Set());
              }}
            >
              {recipe.name}
            </button>
            {open === recipe.key && (
              <div className={cls("lines")}>
                {recipe.lines.map((line, k) => (
                  <Form.Check
                    key={line.says}
                    id={`line-${recipe.key}-${k}`}
                    label={line.says}
                    checked={!out.has(k)}
                    onChange={() => {
                      const next = new Set(out);
                      if (!next.delete(k)) next.add(k);
                      setOut(next);
                    }}
                  />
                ))}
                <Button
                  variant="dark"
                  size="sm"
                  onClick={() => lay(recipe)}
                  disabled={out.size === recipe.lines.length}
                >
                  Set these
                </Button>
              </div>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}
