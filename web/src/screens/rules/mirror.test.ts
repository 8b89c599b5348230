import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import { forgetChanges } from "@/api/conflicts";
import {
  button,
  choose,
  giveNumber,
  giveText,
  leave,
  mounted,
  ROLES,
  serve,
  standInForBrowser,
} from "@/tests/mounting";

import MirrorPart from "./MirrorPart.vue";

const HABITS = {
  format: "fair-texel/mirror",
  version: 1,
  name: "own",
  green: "up",
  space: { unknown: "srgb" },
  compress: [{ roles: ["normal"], format: "bc5" }, { format: "bc7" }],
  reads: [{ suffixes: ["_orm"], channels: { r: "occlusion", g: "roughness", b: "metallic" } }],
};
let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
beforeEach(standInForBrowser);
afterEach(() => {
  forgetChanges();
  leave(page);
});
const rule = (document: unknown) => ({
  kind: "mirror",
  name: "own",
  title: "Own engine",
  number: 1,
  by: "ada",
  created: "2026-11-20T10:00:00Z",
  origin: null,
  document,
});
async function shown(mayRule = true) {
  calls = serve({
    "GET /api/projects/ferry/rules/mirror": [rule(HABITS)],
    "GET /api/projects/ferry/sets": {
      roles: ROLES,
      sets: [],
      tiled: [],
      undecided: [],
      undo: null,
      redo: null,
    },
    "PUT /api/projects/ferry/rules/mirror/own": (body: unknown) => rule(body),
  });
  page = mounted(MirrorPart, {
    slug: "ferry",
    project: { slug: "ferry", target: "x", right: "rules" },
    mayRule,
    mayPrepare: mayRule,
  });
  await flushPromises();
}
async function saved(): Promise<typeof HABITS> {
  await button(page, "Save as version 2").trigger("click");
  await flushPromises();
  return calls.find((one) => one.method === "PUT")!.body as typeof HABITS;
}

describe("an engine's habits", () => {
  it("say how it reads, and what it compresses", async () => {
    await shown();
    expect(page.text()).toContain("normal: BC5; everything else: BC7");
    expect(page.get("h2").text()).toBe("Own engine");
  });

  it("are changed in plain fields and saved as the next version", async () => {
    await shown();
    await choose(page, "Green of normals", "Down, Y-");
    await choose(page, "Otherwise taken for", "Data, linear");
    await giveNumber(page, "Longest side it keeps", 2048);
    await page.findAll("input[type=checkbox]")[1]!.trigger("change");
    expect(await saved()).toMatchObject({
      green: "down",
      largest: 2048,
      space: { unknown: "linear", tags: true },
    });
  });

  it("take a name for what their lines say, channel by channel", async () => {
    await shown();
    await giveText(page, "Ends of names, line 1", "_mask, _pack");
    await choose(page, "R of line 1", "Metallic");
    await choose(page, "B of line 1", "not read");
    const [line] = (await saved()).reads;
    expect(line).toEqual({ suffixes: ["_mask", "_pack"], channels: { r: "metallic", g: "roughness" } });
  });

  it("keep a line that would read nothing or be called nothing", async () => {
    await shown();
    await giveText(page, "Ends of names, line 1", " , ");
    for (const letter of ["R", "G", "B"]) await choose(page, `${letter} of line 1`, "not read");
    expect((await saved()).reads[0]).toEqual({ suffixes: ["_orm"], channels: { b: "metallic" } });
  });

  it("get and lose lines", async () => {
    await shown();
    await button(page, "Add a line").trigger("click");
    expect((await saved()).reads).toHaveLength(2);
    await button(page, "Remove line 1").trigger("click");
    expect(page.text()).toContain("Not saved");
    expect(page.findAll("tbody tr")).toEqual([]);
  });

  it("are read only without the right to set rules", async () => {
    await shown(false);
    expect(page.text()).not.toContain("Add a line");
    expect(page.findAll("tbody input").every((one) => "disabled" in one.attributes())).toBe(true);
  });
});
