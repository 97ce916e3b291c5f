import { unzipSync } from "fflate";
import { describe, expect, it } from "vitest";

import { asModels, filesOf, type Found } from "../src/arrival/bundle";

const file = (path: string, text = path): Found => ({
  path,
  file: new File([text], path.split("/").at(-1)!),
});
const text = async (f: File) => new TextDecoder().decode(await f.arrayBuffer());

/** As a browser hands out what lies in a folder: some at a time. */
function folder(fullPath: string, inner: unknown[]) {
  let told = 0;
  const readEntries = (done: (some: unknown[]) => void) => {
    done(inner.slice(told, told + 2));
    told += 2;
  };
  return { isFile: false, fullPath, createReader: () => ({ readEntries }) };
}
const entry = (fullPath: string) => ({
  isFile: true,
  fullPath,
  file: (done: (f: File) => void) => done(new File([fullPath], fullPath.split("/").at(-1)!)),
});
const drop = (...entries: unknown[]) =>
  ({
    items: entries.map((e) => ({ kind: "file", webkitGetAsEntry: () => e })),
    files: [],
  }) as unknown as DataTransfer;

describe("what is dropped", () => {
  it("is found in folders, however deep and many", async () => {
    const many = ["a", "b", "c", "d", "e"].map((name) => entry(`/house/${name}.png`));
    const found = await filesOf(
      drop(folder("/house", [...many, folder("/house/in", [entry("/house/in/h.obj")])])),
    );
    expect(found.map((f) => f.path)).toEqual([
      ...["a", "b", "c", "d", "e"].map((n) => `house/${n}.png`),
      "house/in/h.obj",
    ]);
  });

  it("are files alone where the browser tells of no folders", async () => {
    const files = [new File(["x"], "a.glb"), new File(["y"], "b.glb")];
    const items = files.map(() => ({ kind: "file", webkitGetAsEntry: () => null }));
    const found = await filesOf({ items, files } as unknown as DataTransfer);
    expect(found.map((f) => f.path)).toEqual(["a.glb", "b.glb"]);
  });

  it("says when a file cannot be read", async () => {
    const broken = {
      isFile: true,
      fullPath: "/x.glb",
      file: (_: unknown, fail: (e: Error) => void) => fail(new Error("gone")),
    };
    await expect(filesOf(drop(broken))).rejects.toThrow("gone");
  });
});

describe("models among files", () => {
  it("come in one by one where each holds all it needs", async () => {
    const models = await asModels([file("a.glb"), file("b/c.STL"), file("d.zip")]);
    expect(models.map((f) => f.name)).toEqual(["a.glb", "c.STL", "d.zip"]);
    expect((await asModels([file("house.obj")])).map((f) => f.name)).toEqual(["house.obj"]);
    expect(await asModels([])).toEqual([]);
  });

  it("are packed with what they refer to", async () => {
    const [made, ...more] = await asModels([
      file("mill/a.png"),
      file("mill/in/mill.obj"),
      file("mill/in/mill.mtl", "newmtl"),
    ]);
    expect([made.name, more]).toEqual(["mill.zip", []]);
    const held = unzipSync(new Uint8Array(await made.arrayBuffer()));
    expect(Object.keys(held).sort()).toEqual(["mill/a.png", "mill/in/mill.mtl", "mill/in/mill.obj"]);
    expect(new TextDecoder().decode(held["mill/in/mill.mtl"])).toBe("newmtl");
  });

  it("are named after the model where there is no folder", async () => {
    const [made] = await asModels([file("oak.png"), file("shed.v2.obj")]);
    expect(made.name).toBe("shed.v2.zip");
    expect((await text(made)).slice(0, 2)).toBe("PK");
  });

  it("are refused where they are too many", async () => {
    await expect(asModels(Array.from({ length: 5001 }, (_, k) => file(`${k}.png`)))).rejects.toThrow(
      "5000 files",
    );
  });
});
