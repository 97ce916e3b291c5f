import { Refusal } from "../api/client";
import { useStore } from "./store";

/** Ask the server for a change that it works out itself: what is on its way is saved first, and a refusal is told. Null where it was refused. */
export async function asked<T>(ask: () => Promise<T>): Promise<T | null> {
  const { settle, notify } = useStore.getState();
  try {
    await settle();
    return await ask();
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    notify(error.message, "error");
    return null;
  }
}

/** The key of a part that the server makes; null where it was refused. */
export async function madePart(
  ask: () => Promise<{ key: string; project: Parameters<ReturnType<typeof useStore.getState>["adopt"]>[0] }>,
): Promise<string | null> {
  const made = await asked(ask);
  if (!made) return null;
  useStore.getState().adopt(made.project);
  return made.key;
}
