import { useEffect, useRef, useState } from "react";

import { api } from "../api/client";
import { useStore } from "../state/store";
import { Button } from "../ui/Button";
import { useArrivals } from "./arrivals";
import { asModels, type Found, filesOf } from "./bundle";

/** How often it is asked how far a reading is. */
const ASK_MS = 400;

/** Have a model read, beside the others or in place of one; its arrival sheet opens then. */
export function useOpenModel(slug: string) {
  const notify = useStore((s) => s.notify);
  const { add, read, over } = useArrivals.getState();
  const open = async (file: File, replace?: string) => {
    const ticket = crypto.randomUUID?.() ?? `model-${Date.now()}-${Math.random().toString(36).slice(2)}`;
    const about = { ticket, name: file.name };
    read({ ...about, words: "Sending it", share: 0 });
    const asking = window.setInterval(() => {
      api.howFar(ticket).then(
        (far) =>
          useArrivals.getState().readings.some((r) => r.ticket === ticket) && read({ ...about, ...far }),
        () => undefined, // it has not begun, or is over
      );
    }, ASK_MS);
    try {
      add(slug, await api.receiveModel(slug, file, ticket, replace));
    } catch (error) {
      notify((error as Error).message, "error");
    } finally {
      window.clearInterval(asking);
      over(ticket);
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
  return { openAll };
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
  const { openAll } = useOpenModel(slug);
  return (
    <>
      <Button variant="outline-dark" size={size} aria-label={about} onClick={() => input.current?.click()}>
        {label}
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        multiple
        accept=".glb,.gltf,.bin,.ifc,.usd,.usda,.usdc,.usdz,.obj,.mtl,.dae,.ply,.stl,.tif,.tiff,.zip,model/gltf-binary,image/*"
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
  const { openAll } = useOpenModel(slug);
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
  return { over };
}
