import { useEffect, useRef } from "react";

/** Whether a key goes into text being written, or a sheet lies over the page: then it is no command. */
export function isTaken(e: KeyboardEvent): boolean {
  const at = e.target;
  if (document.querySelector(".modal.show, .dropdown-menu.show")) return true;
  if (!(at instanceof HTMLElement)) return false;
  const writes =
    at instanceof HTMLInputElement &&
    !["range", "checkbox", "radio", "button", "color", "file"].includes(at.type);
  return (
    writes || at instanceof HTMLTextAreaElement || at instanceof HTMLSelectElement || at.isContentEditable
  );
}

/** A number that Enter has just saved is no longer being written: undo means the edit then. */
const justSettled = (e: KeyboardEvent) =>
  e.target instanceof HTMLElement && e.target.dataset.settled === "true";

type Command = (e: KeyboardEvent) => void;

/** Commands of a page by key: "p", "?", "ctrl+z", "ctrl+shift+z". One press is one command, however long it is held. */
export function useKeys(commands: Record<string, Command>): void {
  const latest = useRef(commands);
  latest.current = commands;
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.defaultPrevented || e.altKey) return;
      const ctrl = e.ctrlKey || e.metaKey;
      const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
      const name = ctrl ? `ctrl+${e.shiftKey ? "shift+" : ""}${key}` : key;
      const takesBack = ["ctrl+z", "ctrl+y", "ctrl+shift+z"].includes(name);
      if (isTaken(e) && !(takesBack && justSettled(e))) return;
      const command = latest.current[name];
      if (!command) return;
      e.preventDefault();
      // Held keys repeat: undo may run on, anything else happens once.
      if (!e.repeat || takesBack) command(e);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
