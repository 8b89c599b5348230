import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import { aFinding, aMap, aSet, mounted, ROLES, serve } from "@/tests/mounting";

import ChannelBoard from "./ChannelBoard.vue";
import FindingList from "./FindingList.vue";
import MapPanel from "./MapPanel.vue";
import MapStrip from "./MapStrip.vue";
import { useDraft } from "./useDraft";

afterEach(() => vi.unstubAllGlobals());
const common = { slug: "ferry", roles: ROLES, mayChange: true, shown: null };

describe("the ledger", () => {
  it("shows number, threshold, evidence and remedy of a finding", async () => {
    const finding = aFinding();
    const ledger = mounted(FindingList, { ...common, set: aSet([aMap("normal")], [finding]) });
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
    const ledger = mounted(FindingList, {
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
    expect(mounted(FindingList, { ...common, set: aSet([]) }).text()).toContain("fit to deliver");
    const unjudged = mounted(FindingList, { ...common, set: aSet([], [], { judged: false }) });
    expect(unjudged.text()).toContain("Being judged");
    expect(unjudged.text()).not.toContain("fit to deliver");
  });

  it("offers nothing to those who may only look", () => {
    const ledger = mounted(FindingList, {
      ...common,
      mayChange: false,
      set: aSet([aMap("normal")], [aFinding()]),
    });
    expect(ledger.findAll("button")).toHaveLength(0);
  });
});

describe("the panel of a map", () => {
  const kind = (step: string, label: string, roles: string[], options: unknown[] = []) => ({
    step,
    label,
    group: "Values",
    roles,
    help: "",
    options,
  });
  const strength = {
    name: "strength",
    kind: "number",
    default: 1,
    low: 0,
    high: 8,
    help: "",
    unit: "",
    values: {},
  };
  const kinds = [
    kind("flip_green", "Flip green", ["normal"]),
    kind("normal_strength", "Strength", ["normal"], [strength]),
    kind("invert", "Invert values", ["roughness"]),
  ];
  const derivations = [
    { source: "height", role: "normal", estimate: false, recipe: [{ step: "normal_from_height" }] },
  ];
  const steps = [{ step: "flip_green", label: "Flip green", off: false, options: {} }];

  function panel(map: ReturnType<typeof aMap>, more = {}) {
    const draft = useDraft(
      () => "ferry",
      () => map,
    );
    const set = aSet([map]);
    return {
      draft,
      shown: mounted(MapPanel, {
        set,
        map,
        roles: ROLES,
        mayChange: true,
        draft,
        kinds,
        derivations,
        ...more,
      }),
    };
  }

  it("tries steps out, and keeps or discards them as one", async () => {
    const map = aMap("normal", { recipe: steps });
    const { draft, shown } = panel(map);
    expect(draft.preview.value).toBeNull();
    await shown.get("[aria-label='Add a step']").setValue("normal_strength");
    expect(draft.steps.value).toEqual([{ step: "flip_green" }, { step: "normal_strength", strength: 1 }]);
    await shown.get("input[type=number]").setValue("3");
    expect(draft.steps.value[1]).toEqual({ step: "normal_strength", strength: 3 });
    expect(new URL(draft.preview.value!, "http://x").searchParams.get("recipe")).toContain('"strength":3');
    await shown.get("input[type=number]").setValue("99");
    expect(draft.steps.value[1]!.strength).toBe(8);
    expect(shown.text()).toContain("Tried out, not kept");
    await shown
      .findAll("button")
      .find((one) => one.text().startsWith("Keep"))!
      .trigger("click");
    expect(shown.emitted("keep")).toHaveLength(1);
    await shown
      .findAll("button")
      .find((one) => one.text().startsWith("Discard"))!
      .trigger("click");
    expect(draft.dirty.value).toBe(false);
  });

  it("reorders, switches off and removes", async () => {
    const second = { step: "normal_strength", label: "Strength 2", off: true, options: { strength: 2 } };
    const { draft, shown } = panel(aMap("normal", { recipe: [...steps, second] }));
    expect(draft.steps.value[1]).toEqual({ step: "normal_strength", strength: 2, off: true });
    await shown.findAll("[aria-label='Later']")[0]!.trigger("click");
    expect(draft.steps.value.map((one) => one.step)).toEqual(["normal_strength", "flip_green"]);
    await shown.findAll("input[type=checkbox]")[0]!.trigger("change");
    expect(draft.steps.value[0]).toEqual({ step: "normal_strength", strength: 2 });
    await shown.get("[aria-label='Remove Flip green']").trigger("click");
    expect(draft.steps.value).toHaveLength(1);
  });

  it("offers what fits the role: steps, and maps to make from it", async () => {
    const rough = panel(aMap("roughness")).shown;
    const offered = rough.get("[aria-label='Add a step']").findAll("option");
    expect(offered.map((one) => one.text())).toEqual(["Add a step …", "Invert values"]);
    expect(rough.text()).toContain("90 % sure");
    expect(rough.text()).not.toContain("Split off");
    const height = panel(aMap("height")).shown;
    await height.get("[aria-label='Make a map from this one']").setValue("0");
    expect(height.emitted("derive")![0]).toEqual([derivations[0]]);
  });

  it("changes nothing for those who may only look", () => {
    const { shown } = panel(aMap("normal", { recipe: steps }), { mayChange: false });
    expect(shown.find("[aria-label='Add a step']").exists()).toBe(false);
    expect(shown.get("input[type=checkbox]").attributes("disabled")).toBeDefined();
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
      { ...channel, letter: "g", role: "roughness", map: 4, steps: ["Invert values"] },
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
    expect(line("g")).toContain("Invert values");
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
