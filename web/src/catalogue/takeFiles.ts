import { api } from "../api/client";

export interface Taking {
  done: number;
  total: number;
  refused: { name: string; why: string }[];
  doubtful: { name: string; why: string }[];
}

const AT_ONCE = 3;
const PROFILE = /\.(ies|ldt|txt)$/i;
const TILT = /\.(tlt|tilt)$/i;
const NAMED_TILT = /^\s*TILT\s*=\s*(\S.*?)\s*$/im;

/** All files of what was dropped, folders looked through. */
export async function filesOf(transfer: DataTransfer): Promise<File[]> {
  const entries = [...transfer.items].map((i) => i.webkitGetAsEntry()).filter((e) => e !== null);
  const found: File[] = [];
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      found.push(await new Promise<File>((ok, no) => (entry as FileSystemFileEntry).file(ok, no)));
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((ok, no) => reader.readEntries(ok, no));
      if (some.length === 0) return;
      for (const e of some) await walk(e);
    }
  };
  for (const entry of entries) await walk(entry);
  return found;
}

/** Send profiles to the catalogue, a few at once; broken ones are listed and hold nothing up. */
export async function takeFiles(files: File[], tell: (state: Taking) => void): Promise<Taking> {
  const tilts = new Map(files.filter((f) => TILT.test(f.name)).map((f) => [f.name.toLowerCase(), f]));
  const wanted = files.filter((f) => PROFILE.test(f.name));
  let state: Taking = { done: 0, total: wanted.length, refused: [], doubtful: [] };
  const waiting = [...wanted];
  const one = async (file: File) => {
    try {
      const named = tilts.size > 0 ? NAMED_TILT.exec(await file.text())?.[1] : undefined;
      const tilt = named ? tilts.get(named.split(/[\\/]/).at(-1)!.toLowerCase()) : undefined;
      const line = await api.takeProfile(file, tilt && (await tilt.text()));
      if (line.warnings.length > 0)
        state = {
          ...state,
          doubtful: [...state.doubtful, { name: file.name, why: line.warnings.join(" ") }],
        };
    } catch (error) {
      state = { ...state, refused: [...state.refused, { name: file.name, why: (error as Error).message }] };
    }
    state = { ...state, done: state.done + 1 };
    tell(state);
  };
  const lane = async () => {
    for (let file = waiting.shift(); file; file = waiting.shift()) await one(file);
  };
  tell(state);
  await Promise.all(Array.from({ length: AT_ONCE }, lane));
  return state;
}
