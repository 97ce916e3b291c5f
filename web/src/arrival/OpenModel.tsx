import { useEffect, useRef, useState } from "react";

import { api } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { useArrivals } from "./arrivals";
import { asModels, type Found, filesOf } from "./bundle";

/** Have a model read, beside the others or in place of one; its arrival sheet opens then. */
export function useOpenModel(slug: string) {
  const notify = useStore((s) => s.notify);
  const add = useArrivals((s) => s.add);
  const [opening, setOpening] = useState<string | null>(null);
  const open = async (file: File, replace?: string) => {
    setOpening(file.name);
    try {
      add(slug, await api.receiveModel(slug, file, replace));
    } catch (error) {
      notify((error as Error).message, "error");
    } finally {
      setOpening(null);
    }
  };
  /** Bring in all that was chosen or dropped, one model after the other. */
  const openAll = async (found: Found[], replace?: string) => {
    try {
      for (const file of await asModels(found)) await open(file, replace);
    } catch (error) {
      notify((error as Error).message, "error");
    }
  };
  return { opening, openAll };
}

interface Props {
  slug: string;
  /** Key of the thing on the stage it stands in for. */
  replace?: string;
  label?: string;
  about?: string;
  size?: "sm";
}

/** A button that opens a model file. */
export function OpenModel({ slug, replace, label = "Open model", about, size }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const { opening, openAll } = useOpenModel(slug);
  return (
    <>
      <Button
        variant="outline-dark"
        size={size}
        disabled={opening !== null}
        aria-label={about}
        onClick={() => input.current?.click()}
      >
        {opening ? "Reading…" : label}
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        multiple
        accept=".glb,.gltf,.bin,.ifc,.usd,.usda,.usdc,.usdz,.obj,.mtl,.dae,.ply,.stl,.zip,model/gltf-binary,image/*"
        aria-label={about ? `File: ${about}` : "Model file"}
        onChange={(e) => {
          const found = [...(e.target.files ?? [])].map((file) => ({ path: file.name, file }));
          e.target.value = "";
          void openAll(found, replace);
        }}
      />
    </>
  );
}

/** Files and folders dropped anywhere on the page are taken as models; says so while they hover. */
export function useDroppedModels(slug: string) {
  const { opening, openAll } = useOpenModel(slug);
  const notify = useStore((s) => s.notify);
  const [over, setOver] = useState(false);
  const latest = useRef({ openAll, notify });
  latest.current = { openAll, notify };
  useEffect(() => {
    const holdsFiles = (e: DragEvent) => e.dataTransfer?.types.includes("Files") ?? false;
    const onOver = (e: DragEvent) => {
      if (!holdsFiles(e)) return;
      e.preventDefault();
      setOver(true);
    };
    const onLeave = (e: DragEvent) => e.relatedTarget === null && setOver(false);
    const onDrop = (e: DragEvent) => {
      if (!holdsFiles(e)) return;
      e.preventDefault();
      setOver(false);
      if (!e.dataTransfer) return;
      filesOf(e.dataTransfer).then(
        (found) => latest.current.openAll(found),
        (error: Error) => latest.current.notify(`What was dropped cannot be read: ${error.message}`, "error"),
      );
    };
    window.addEventListener("dragover", onOver);
    window.addEventListener("dragleave", onLeave);
    window.addEventListener("drop", onDrop);
    return () => {
      window.removeEventListener("dragover", onOver);
      window.removeEventListener("dragleave", onLeave);
      window.removeEventListener("drop", onDrop);
    };
  }, []);
  return { over, opening };
}
