import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import { aFinding, aMap, aSet, mounted, ROLES, serve } from "@/tests/mounting";

import ChannelBoard from "./ChannelBoard.vue";
import Ledger from "./Ledger.vue";
import MapPanel from "./MapPanel.vue";
import MapStrip from "./MapStrip.vue";

afterEach(() => vi.unstubAllGlobals());
const common = { slug: "ferry", roles: ROLES, mayChange: true, shown: null };

describe("the ledger", () => {
  it("shows number, threshold, evidence and remedy of a finding", async () => {
    const finding = aFinding();
    const ledger = mounted(Ledger, { ...common, set: aSet([aMap("normal")], [finding]) });
    expect(ledger.text()).toContain("Green against the name");
    expect(ledger.text()).toContain("measured -0.970, threshold 0");
    const evidence = ledger.get("img").attributes("src")!;
    expect(evidence).toContain("box=64%2C0%2C64%2C64");
    expect(evidence).toContain("channel=g");
    await ledger.get("button").trigger("click");
    expect(ledger.emitted("remedy")![0]).toEqual([finding]);
    expect(ledger.emitted("show")).toBeUndefined();
    await ledger.get("article").trigger("click");
    expect(ledger.emitted("show")![0]).toEqual([finding]);
  });

  it("offers roles for a hidden alpha, and looks for it in the source", async () => {
    const place = { x: 0, y: 0, width: 512, height: 512, channel: "a" };
    const finding = aFinding({ check: "hidden_alpha", severity: "warning", remedy: null, place });
    const ledger = mounted(Ledger, {
      ...common,
      set: aSet([aMap("base_color", { channels: "rgba" })], [finding]),
    });
    expect(ledger.get("img").attributes("src")).toContain("source=true");
    const options = ledger.findAll("option").map((one) => one.text());
    expect(options).toContain("Opacity");
    expect(options).not.toContain("Normal");
    await ledger.get("select").setValue("opacity");
    expect(ledger.emitted("alpha")![0]).toEqual([finding, "opacity"]);
  });

  it("says when nothing was found, and when nothing is known yet", () => {
    expect(mounted(Ledger, { ...common, set: aSet([]) }).text()).toContain("fit to deliver");
    const unjudged = mounted(Ledger, { ...common, set: aSet([], [], { judged: false }) });
    expect(unjudged.text()).toContain("Being judged");
    expect(unjudged.text()).not.toContain("fit to deliver");
  });

  it("offers nothing to those who may only look", () => {
    const ledger = mounted(Ledger, {
      ...common,
      mayChange: false,
      set: aSet([aMap("normal")], [aFinding()]),
    });
    expect(ledger.findAll("button")).toHaveLength(0);
  });
});

describe("the panel of a map", () => {
  const steps = [{ step: "flip_green", label: "Flip green", options: {} }];

  it("lists its steps, and takes one away or adds one", async () => {
    const map = aMap("normal", { recipe: steps });
    const panel = mounted(MapPanel, { set: aSet([map]), map, roles: ROLES, mayChange: true });
    await panel.get("[aria-label='Remove Flip green']").trigger("click");
    expect(panel.emitted("removeStep")![0]).toEqual([0]);
    await panel.get("[aria-label='Add a step']").setValue("renormalise");
    expect(panel.emitted("addStep")![0]).toEqual(["renormalise"]);
    await panel.findAll("select")[0]!.setValue("height");
    expect(panel.emitted("role")![0]).toEqual(["height"]);
  });

  it("offers the steps that fit the role", () => {
    const map = aMap("roughness");
    const panel = mounted(MapPanel, { set: aSet([map]), map, roles: ROLES, mayChange: true });
    const offered = panel
      .get("[aria-label='Add a step']")
      .findAll("option")
      .map((one) => one.text());
    expect(offered).toEqual(["Add a step …", "Invert values"]);
    expect(panel.text()).toContain("90 % sure");
    expect(panel.text()).not.toContain("Split off");
  });
});

describe("the strip of maps", () => {
  it("numbers them, marks the current one and the spares", async () => {
    const maps = [aMap("normal", { id: 1 }), aMap("normal", { id: 2, in_use: false })];
    const strip = mounted(MapStrip, { slug: "ferry", maps, roles: ROLES, current: 1 });
    const [first, second] = strip.findAll("button");
    expect(first!.attributes("aria-current")).toBe("true");
    expect(second!.text()).toContain("(spare)");
    await second!.trigger("click");
    expect(strip.emitted("pick")![0]).toEqual([2]);
  });
});

describe("the channel board", () => {
  const channel = {
    letter: "r",
    role: "occlusion",
    map: 3,
    source_channel: "r",
    inverted: false,
    constant: null,
    steps: [],
  };
  const output = {
    output: "orm",
    path: "deck/deck_orm.png",
    kind: "map",
    container: "png",
    bits: 8,
    colour_space: "linear",
    width: 512,
    height: 512,
    green: null,
    plan: "p".repeat(64),
    channels: [
      channel,
      { ...channel, letter: "g", role: "roughness", map: 4, steps: ["invert"] },
      { ...channel, letter: "b", role: "metallic", map: null, source_channel: null, constant: 0 },
    ],
  };
  const single = {
    ...output,
    output: "normal",
    path: "deck/deck_normal.png",
    channels: [{ ...channel, role: "normal" }],
  };

  async function board(outputs: unknown = [single, output]) {
    serve({
      "GET /api/projects/ferry/targets": [
        { name: "orm", title: "Packs", green: "down", own: false, outputs: [] },
      ],
      "GET /api/projects/ferry/sets/1/outputs": outputs,
    });
    const maps = [aMap("occlusion", { id: 3 }), aMap("glossiness", { id: 4 })];
    const found = mounted(ChannelBoard, { slug: "ferry", set: aSet(maps), roles: ROLES, target: "orm" });
    await flushPromises();
    await flushPromises();
    return found;
  }

  it("shows the packed file first: each channel, its source, what is done to it", async () => {
    const shown = await board();
    expect(shown.get("[aria-selected='true']").text()).toBe("orm");
    const line = (letter: string) => shown.get(`[data-channel='${letter}']`).text();
    expect(line("r")).toContain("Occlusion");
    expect(line("r")).toContain("as it is");
    expect(line("g")).toContain("Roughness from glossiness");
    expect(line("g")).toContain("inverted");
    expect(line("b")).toContain("Metallic: constant 0");
    expect(shown.get("[data-channel='g'] [data-test='result']").attributes("src")).toContain("channel=g");
    expect(shown.get("a").attributes("href")).toContain("path=deck%2Fdeck_orm.png");
  });

  it("turns to another output, and passes the target on", async () => {
    const shown = await board();
    await shown.findAll("[role='tab']")[0]!.trigger("click");
    expect(shown.findAll("[data-channel]")).toHaveLength(1);
    await shown.get("[aria-label='Target']").setValue("orm");
    expect(shown.emitted("target")).toBeTruthy();
  });
});
