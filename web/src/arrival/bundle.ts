/** What was dropped or chosen, as models to bring in: files by themselves, or a model packed with the files it refers to. */
import { zip } from "fflate";

/** Kinds that hold all they need. */
const ALONE = /\.(glb|stl|ply|zip)$/i;
const MODEL = /\.(gltf|obj|dae|glb|stl|ply)$/i;
const MOST_FILES = 5000;

export interface Found {
  /** Path within what was dropped. */
  path: string;
  file: File;
}

/** Every file of a drop, those in folders too. Must be called while the event is handled. */
export function filesOf(transfer: DataTransfer): Promise<Found[]> {
  const items = [...transfer.items].filter((item) => item.kind === "file");
  const entries = items.map((item) => item.webkitGetAsEntry?.() ?? null);
  if (entries.every((entry) => entry === null))
    return Promise.resolve([...transfer.files].map((file) => ({ path: file.name, file })));
  const found: Found[] = [];
  const walk = async (entry: FileSystemEntry | null): Promise<void> => {
    if (!entry || found.length > MOST_FILES) return;
    if (entry.isFile) {
      const file = await new Promise<File>((done, fail) => (entry as FileSystemFileEntry).file(done, fail));
      found.push({ path: entry.fullPath.replace(/^\/+/, ""), file });
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      // A folder is told in pieces, until there is no more.
      const some = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
      if (some.length === 0) return;
      for (const inner of some) await walk(inner);
    }
  };
  return entries
    .reduce((before, entry) => before.then(() => walk(entry)), Promise.resolve())
    .then(() => found);
}

/** The files of a surface as one: what is alone as it is, more in a zip. */
export async function asSurface(found: Found[]): Promise<File> {
  if (found.length > MOST_FILES)
    throw new Error(`More than ${MOST_FILES} files were dropped; drop one surface.`);
  return found.length === 1 ? found[0].file : packed(found, folderOf(found[0]));
}

const folderOf = (first: Found) =>
  first.path.includes("/") ? first.path.split("/")[0] : first.path.replace(/\.[^.]*$/, "");

/** Files in one zip. */
async function packed(found: Found[], name: string): Promise<File> {
  const held = await Promise.all(
    found.map(async ({ path, file }) => [path, new Uint8Array(await file.arrayBuffer())] as const),
  );
  const data = await new Promise<Uint8Array<ArrayBuffer>>((done, fail) =>
    zip(Object.fromEntries(held), { level: 1 }, (error, made) =>
      error ? fail(error) : done(made as Uint8Array<ArrayBuffer>),
    ),
  );
  return new File([data], `${name}.zip`, { type: "application/zip" });
}

/** The models among files: each by itself where all hold what they need, else one zip of all of them. */
export async function asModels(found: Found[]): Promise<File[]> {
  if (found.length > MOST_FILES)
    throw new Error(`More than ${MOST_FILES} files were dropped; drop the model's own folder.`);
  if (found.length <= 1 || found.every(({ path }) => ALONE.test(path))) return found.map(({ file }) => file);
  const model = found.find(({ path }) => MODEL.test(path)) ?? found[0];
  return [await packed(found, folderOf(model))];
}
