// @vitest-environment jsdom
import { afterEach, describe, expect, it, vi } from "vitest";

import { api, hand, Refusal } from "../src/api/client";

const asked: Request[] = [];
function answering(body: unknown, status = 200, type = "application/json") {
  asked.length = 0;
  vi.stubGlobal("fetch", (request: Request) => {
    asked.push(request);
    return Promise.resolve(
      new Response(typeof body === "string" ? body : JSON.stringify(body), {
        status,
        headers: { "Content-Type": type },
      }),
    );
  });
}
afterEach(() => vi.unstubAllGlobals());
const path = () => asked[0].url.replace(/^https?:\/\/[^/]+/, "");

describe("calls to the server", () => {
  it("name this window and write odd letters so that they arrive", async () => {
    answering([]);
    await api.readings("mill", "a/b ü", "june morning");
    expect(path()).toBe("/api/projects/mill/fixtures/a%2Fb%20%C3%BC/readings?occasion=june%20morning");
    expect(asked[0].headers.get("Valleylight-Hand")).toBe(hand);
  });

  it("leave out what is not asked for", async () => {
    answering({});
    await api.profiles({ text: "", beam_from: 10, shape: "" } as never);
    expect(path()).toBe("/api/profiles?beam_from=10");
    answering({});
    await api.undo("mill", null);
    expect(path()).toBe("/api/projects/mill/undo");
    answering({});
    await api.undo("mill", 7);
    expect(path()).toBe("/api/projects/mill/undo?base=7");
  });

  it("send an edit as it is, kept going when the page is left while it is small", async () => {
    answering({ revision: 2 });
    const small = [{ part: "name" as const, key: "", value: "Mill" }];
    await api.edit("mill", "Rename", small, 1);
    expect(await asked[0].json()).toEqual({ label: "Rename", changes: small, base: 1 });
    expect(asked[0].keepalive).toBe(true);
    answering({ revision: 2 });
    await api.edit("mill", "Rename", [{ part: "name", key: "", value: "x".repeat(60_000) }], 1);
    expect(asked[0].keepalive).toBe(false);
  });

  it("send a file whole, with its name", async () => {
    answering({ revision: 3 }, 201);
    await api.receiveModel("mill", new File(["glTF…"], "mill & yard.glb"), "ticket-one", "old-mill");
    expect(path()).toBe(
      "/api/projects/mill/arrivals?name=mill%20%26%20yard.glb&replace=old-mill&ticket=ticket-one",
    );
    expect(asked[0].headers.get("Content-Type")).toBe("application/octet-stream");
    expect(await asked[0].text()).toBe("glTF…");
  });

  it("refuse in the server's words", async () => {
    answering(
      { title: "No", detail: "There is no view “x”. Choose one.", where: "view" },
      404,
      "application/problem+json",
    );
    const refusal = await api.plates("mill").catch((e: unknown) => e as Refusal);
    expect(refusal).toBeInstanceOf(Refusal);
    expect(refusal).toMatchObject({
      status: 404,
      message: "There is no view “x”. Choose one.",
      where: "view",
    });
  });

  it("hand on what another did meanwhile", async () => {
    const conflict = { detail: "changed", where: "edit", revision: 5, label: "Hour", now: [] };
    answering(conflict, 409, "application/problem+json");
    await expect(api.edit("mill", "Hour", [], 4)).rejects.toMatchObject({ status: 409, conflict });
  });

  it("say so when what answers is no server of ours", async () => {
    answering("<html>Bad gateway</html>", 502, "text/html");
    await expect(api.projects()).rejects.toMatchObject({ status: 502, message: "The server answered 502." });
  });

  it("say so when nothing answers", async () => {
    vi.stubGlobal("fetch", () => Promise.reject(new TypeError("Failed to fetch")));
    await expect(api.projects()).rejects.toMatchObject({ status: 0 });
  });

  it("take the working view's triangles as bytes", async () => {
    answering("12345678", 200, "application/octet-stream");
    expect((await api.mesh("mill", "noon")).byteLength).toBe(8);
  });
});
