import { useRef, useState } from "react";

import { api, type FamilyLine } from "../api/client";
import { asModels, type Found, filesOf } from "../arrival/bundle";
import { asked } from "../state/asked";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { PartMenu } from "../ui/PartMenu";
import { familiesChanged } from "./useThings";

/** Bring in objects of one's own: any model is one, with the files it refers to. They are there for all projects. */
export function BringIn() {
  const input = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const notify = useStore((s) => s.notify);
  const take = async (found: Found[]) => {
    if (found.length === 0) return;
    setBusy(true);
    await asked(async () => {
      for (const file of await asModels(found)) {
        const made = await api.takeObject(file);
        notify(`${made.name} is in the catalogue now.`);
      }
    });
    setBusy(false);
    await familiesChanged();
  };
  return (
    <div
      onDragOver={(e) => e.dataTransfer.types.includes("Files") && e.preventDefault()}
      onDrop={(e) => {
        if (!e.dataTransfer.types.includes("Files")) return;
        e.preventDefault();
        e.stopPropagation();
        void filesOf(e.dataTransfer).then(take);
      }}
    >
      <Button size="sm" variant="outline-dark" disabled={busy} onClick={() => input.current?.click()}>
        {busy ? "Reading…" : "Bring in an object"}
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        multiple
        aria-label="Files of an object"
        onChange={(e) => {
          void take([...(e.target.files ?? [])].map((file) => ({ path: file.name, file })));
          e.target.value = "";
        }}
      />
    </div>
  );
}

/** What can be done with an object of one's own in the catalogue. */
export function OwnMenu({ family }: { family: FamilyLine }) {
  const number = family.own!;
  const rename = async (name: string) => {
    if (await asked(() => api.renameObject(number, name))) await familiesChanged();
  };
  const away = async () => {
    if ((await asked(() => api.putObjectAway(number))) !== null) await familiesChanged();
  };
  return (
    <PartMenu
      about={`object ${family.name}`}
      name={family.name}
      rename={(name) => void rename(name)}
      items={[{ name: "Take out of the catalogue", act: () => void away() }]}
    />
  );
}
