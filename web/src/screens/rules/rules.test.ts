import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import { type Budget, errorWords, memoryWords } from "@/api/rules";
import FindingList from "@/screens/set/FindingList.vue";
import TrialPanel from "@/screens/set/TrialPanel.vue";
import { aFinding, aMap, aSet, button, choose, giveText, mounted, ROLES, serve } from "@/tests/mounting";

import ChannelLanes from "./ChannelLanes.vue";
import NameShape from "./NameShape.vue";
import NamesPart from "./NamesPart.vue";
import RenameList from "./RenameList.vue";
import { groupsOf } from "./memory";

afterEach(() => vi.unstubAllGlobals());
const NAMES = {
  format: "fair-texel/names",
  version: 1,
  parts: [{ part: "asset" }, { part: "suffix" }],
  suffixes: { normal: "n" },
};
const wrong = (file: number, path: string, right: string | null) => ({
  file,
  path,
  right,
  came_as: path,
  sets: ["deck"],
  fine: false,
  parts: {},
  problems: ["the suffix is n, not nrm"],
});

describe("a channel lane", () => {
  const lanes = (channels: Record<string, unknown>) =>
    mounted(ChannelLanes, {
      slug: "ferry",
      roles: ROLES,
      mayChange: true,
      sample: aSet([aMap("roughness")]),
      results: {},
      channels,
    });

  it("shows the sample's map as the source, and a constant as its grey", () => {
    const shown = lanes({ r: { role: "roughness" }, g: { missing: 1 } });
    expect(shown.get('[data-lane="r"] img').attributes("src")).toContain("/maps/1/picture");
    expect(shown.get('[data-lane="g"] .swatch').attributes("style")).toContain("rgb(255 255 255)");
  });

  it("gives a colour the channel of its own letter, and drops what a role does not take", async () => {
    const shown = lanes({ r: { role: "roughness" }, g: { role: "roughness", invert: true } });
    await choose(shown, "Source of Green", "Base colour");
    expect(shown.emitted("update:channels")![0]).toEqual([
      { r: { role: "roughness" }, g: { role: "base_color", invert: true, channel: "g" } },
    ]);
    await choose(shown, "Source of Red", "A constant value");
    expect((shown.emitted("update:channels")![1] as [{ r: unknown }])[0].r).toEqual({ missing: 0 });
  });
});

describe("rules for names", () => {
  it("are moved, added and taken out part by part", async () => {
    serve({ "GET /api/catalogue": { name_parts: ["asset", "suffix", "version", "text"] } });
    const shape = mounted(NameShape, { document: NAMES, mayChange: true });
    await flushPromises();
    await button(shape, "Later").trigger("click");
    expect(shape.emitted("set")![0]).toEqual([{ parts: [{ part: "suffix" }, { part: "asset" }] }]);
    await choose(shape, "Add a part", "version");
    expect(shape.emitted("set")![1]).toEqual([
      { parts: [...NAMES.parts, { part: "version", optional: true }] },
    ]);
    await giveText(shape, "Words allowed for asset", "hull, deck");
    expect((shape.emitted("set")![2] as [{ parts: unknown[] }])[0].parts[0]).toEqual({
      part: "asset",
      words: ["hull", "deck"],
    });
  });

  it("are tried on names that are typed, before they are saved", async () => {
    vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"] });
    const rule = { name: "house", title: "", number: 0, own: false, origin: null, document: NAMES };
    const verdict = { path: "deck_nrm.png", fine: false, parts: {}, problems: ["no"], right: "deck_n.png" };
    const calls = serve({
      "GET /api/projects/ferry/rules/names": [rule],
      "GET /api/projects/ferry/names": { shape: "asset_suffix", files: [] },
      "POST /api/projects/ferry/names/try": { shape: "asset_suffix", names: [verdict] },
    });
    const part = mounted(NamesPart, { slug: "ferry", project: {}, mayRule: true, mayPrepare: true });
    await flushPromises();
    await part.get("textarea").setValue("deck_nrm.png");
    await vi.advanceTimersByTimeAsync(300);
    vi.useRealTimers();
    await flushPromises();
    expect(part.text()).toContain("→ deck_n.png");
    const tried = calls.filter((one) => one.path.endsWith("/try")).at(-1)!;
    expect(tried.body).toEqual({ names: ["deck_nrm.png"], rules: NAMES });
  });

  it("tell nothing of the files before the names have come", async () => {
    const rule = { name: "house", title: "", number: 0, own: false, origin: null, document: NAMES };
    let come: (names: unknown) => void = () => undefined;
    serve({
      "GET /api/projects/ferry/rules/names": [rule],
      "GET /api/projects/ferry/names": () => new Promise((done) => (come = done)),
      "POST /api/projects/ferry/names/try": { shape: "asset_suffix", names: [] },
    });
    const part = mounted(NamesPart, { slug: "ferry", project: {}, mayRule: true, mayPrepare: true });
    await flushPromises();
    expect(part.text()).not.toContain("file names follow");
    come({ shape: "asset_suffix", files: [wrong(1, "deck_nrm.png", "deck_n.png")] });
    await flushPromises();
    expect(part.text()).toContain("0 of 1 file name");
  });

  it("put right what is ticked, and what can be put right alone", async () => {
    const files = [
      wrong(1, "deck_nrm.png", "deck_n.png"),
      wrong(2, "x.png", null),
      wrong(3, "b_N.png", "b_n.png"),
    ];
    const list = mounted(RenameList, { files, mayChange: true, unsaved: false, busy: false });
    await list.get('[aria-label="Rename b_N.png"]').setValue(false);
    await list.get("header button").trigger("click");
    expect(list.emitted("rename")![0]).toEqual([[{ file: 1, path: "deck_n.png", seen: "deck_nrm.png" }]]);
    const look = mounted(RenameList, { files, mayChange: false, unsaved: false, busy: false });
    expect(look.find("header button").exists()).toBe(false);
  });
});

describe("formats tried on a map", () => {
  const trial = (format: string, within: boolean, bits: number) => ({
    format,
    label: format.toUpperCase(),
    bits_per_texel: bits,
    memory: 1 << 20,
    size: 1000,
    within,
    error: { kind: "mask", step: 0.001, step_99: 0.02, step_max: 0.1, psnr: 44.2 },
  });

  it("are listed from the cheapest on, and one is shown against the map", async () => {
    const map = aMap("roughness");
    const told = {
      sort: "mask",
      kind: "mask",
      limit: 0.06,
      quality: "normal",
      plain_bytes: 4096,
      allowed: ["bc4", "r8"],
      formats: [
        { key: "bc4", label: "BC4" },
        { key: "r8", label: "8 bits" },
      ],
      trials: [trial("bc7", true, 8), trial("bc4", false, 4)],
    };
    const calls = serve({
      "GET /api/projects/ferry/maps/1/trials": told,
      "GET /api/projects/ferry/maps/1/misread": [],
      "GET /api/projects/ferry/jobs": [],
      "POST /api/projects/ferry/maps/1/trials": { job: 1 },
    });
    const panel = mounted(TrialPanel, { slug: "ferry", map, mayChange: true });
    await flushPromises();
    expect(panel.findAll("tbody tr").map((one) => one.attributes("data-format"))).toEqual(["bc4", "bc7"]);
    expect(panel.get('[data-format="bc7"]').text()).toContain("cheapest within");
    await panel.get('[data-format="bc4"] button').trigger("click");
    const other = panel.emitted("show")!.at(-1) as [{ label: string; address: (w: object) => string }];
    expect(other[0].label).toBe("as BC4");
    expect(other[0].address({ side: 64 })).toContain("/trials/bc4/decoded?quality=normal");
    await button(panel, "Encode 1").trigger("click");
    await flushPromises();
    const asked = calls.find((one) => one.method === "POST")!;
    expect(asked.body).toEqual({ formats: ["r8"], quality: "normal" });
  });

  it("tell errors in the unit of the map", () => {
    expect(errorWords({ kind: "normal", degrees: 0.5, degrees_99: 2, degrees_max: 9 })).toEqual([
      "0.50 °",
      "2.00 °",
    ]);
    expect(errorWords({ kind: "colour", delta_e: 1, delta_e_99: 3.456, psnr: null })[2]).toBe("equal");
    expect(memoryWords(1536)).toBe("1.5 KiB");
    expect(memoryWords(3 << 20)).toBe("3.00 MiB");
  });
});

describe("a waiver", () => {
  const common = { slug: "ferry", roles: ROLES, mayChange: true, shown: null };

  it("needs a reason, and the right to set rules", async () => {
    const ledger = mounted(FindingList, {
      ...common,
      mayWaive: true,
      set: aSet([aMap("normal")], [aFinding()]),
    });
    await ledger.get("[data-test=waive]").trigger("click");
    await ledger.get("form").trigger("submit");
    expect(ledger.emitted("waive")).toBeUndefined();
    await ledger.get("form input").setValue("far away");
    await ledger.get("form").trigger("submit");
    expect(ledger.emitted("waive")![0]!.slice(1)).toEqual(["far away", null]);
    const others = mounted(FindingList, { ...common, set: aSet([aMap("normal")], [aFinding()]) });
    expect(others.find("[data-test=waive]").exists()).toBe(false);
  });

  it("stands behind what counts, with its reason", () => {
    const waiver = { id: 4, reason: "far away", until: null, by: "ada" };
    const findings = [aFinding({ id: 1, waiver }), aFinding({ id: 2 })];
    const ledger = mounted(FindingList, { ...common, mayWaive: true, set: aSet([aMap("normal")], findings) });
    const articles = ledger.findAll("article");
    expect(articles[1]!.text()).toContain("Waived: far away");
    expect(articles[1]!.find("footer").exists()).toBe(false);
  });
});

describe("memory taken together", () => {
  const file = (output: string, memory: number, roles: Record<string, number>) => ({
    path: `${output}.png`,
    output,
    memory,
    roles,
    width: 64,
    height: 64,
  });
  const budget = {
    sets: [
      {
        name: "deck",
        files: [file("orm", 90, { roughness: 30, metallic: 60 }), file("normal", 40, { normal: 40 })],
      },
      { name: "hull", files: [file("orm", 30, { roughness: 15, metallic: 15 })] },
    ],
  } as unknown as Budget;
  const told = (by: "set" | "role" | "output") => groupsOf(budget, by).map((one) => [one.key, one.memory]);

  it("adds up by set, by output and by role, the largest first", () => {
    expect(told("set")).toEqual([
      ["deck", 130],
      ["hull", 30],
    ]);
    expect(told("output")).toEqual([
      ["orm", 120],
      ["normal", 40],
    ]);
    expect(told("role")).toEqual([
      ["metallic", 75],
      ["roughness", 45],
      ["normal", 40],
    ]);
  });

  it("says of every part where it comes from", () => {
    expect(groupsOf(budget, "role")[1]!.parts.map((one) => one.words)).toEqual([
      "deck, orm, 64 × 64",
      "hull, orm, 64 × 64",
    ]);
  });
});
