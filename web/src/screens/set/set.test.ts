import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import { aFinding, aMap, aSet, button, choose, giveNumber, mounted, ROLES, serve } from "@/tests/mounting";

import ChannelBoard from "./ChannelBoard.vue";
import FindingList from "./FindingList.vue";
import MapFacts from "./MapFacts.vue";
import MapStrip from "./MapStrip.vue";
import StepList from "./StepList.vue";
import { useDraft } from "./useDraft";

afterEach(() => vi.unstubAllGlobals());
const common = { slug: "ferry", roles: ROLES, mayChange: true, shown: null };

describe("the findings", () => {
  it("shows number, threshold, evidence and remedy of a finding", async () => {
    const finding = aFinding();
    const list = mounted(FindingList, { ...common, set: aSet([aMap("normal")], [finding]) });
    expect(list.text()).toContain("Green direction contradicts the name");
    expect(list.text()).toContain("measured -0.970, threshold 0");
    const evidence = list.get("img").attributes("src")!;
    expect(evidence).toContain("box=64%2C0%2C64%2C64");
    expect(evidence).toContain("channel=g");
    await button(list, "Flip green").trigger("click");
    expect(list.emitted("remedy")![0]).toEqual([finding]);
    expect(list.emitted("show")).toBeUndefined();
    await list.get("article").trigger("click");
    expect(list.emitted("show")![0]).toEqual([finding]);
  });

  it("offers roles for a hidden alpha, and looks for it in the source", async () => {
    const place = { x: 0, y: 0, width: 512, height: 512, channel: "a" };
    const finding = aFinding({ check: "hidden_alpha", severity: "warning", remedy: null, place });
    const list = mounted(FindingList, {
      ...common,
      set: aSet([aMap("base_color", { channels: "rgba" })], [finding]),
    });
    expect(list.get("img").attributes("src")).toContain("source=true");
    await expect(choose(list, "Use alpha as", "Normal")).rejects.toThrow("not Normal");
    await choose(list, "Use alpha as", "Opacity");
    expect(list.emitted("alpha")![0]).toEqual([finding, "opacity"]);
  });

  it("says when nothing was found, and when nothing is known yet", () => {
    expect(mounted(FindingList, { ...common, set: aSet([]) }).text()).toContain("This set can be delivered");
    const unjudged = mounted(FindingList, { ...common, set: aSet([], [], { judged: false }) });
    expect(unjudged.text()).toContain("Being checked");
    expect(unjudged.text()).not.toContain("This set can be delivered");
  });

  it("offers nothing to those who may only look", () => {
    const list = mounted(FindingList, {
      ...common,
      mayChange: false,
      set: aSet([aMap("normal")], [aFinding()]),
    });
    expect(list.findAll("button")).toHaveLength(0);
  });
});

describe("the steps of a map", () => {
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
  const steps = [{ step: "flip_green", label: "Flip green", off: false, options: {} }];

  function panel(map: ReturnType<typeof aMap>, more = {}) {
    const draft = useDraft(
      () => "ferry",
      () => map,
    );
    const shown = mounted(StepList, {
      set: aSet([map]),
      map,
      roles: ROLES,
      mayChange: true,
      draft,
      kinds,
      ...more,
    });
    return { draft, shown };
  }

  it("are tried on the picture, and applied or discarded as one", async () => {
    const { draft, shown } = panel(aMap("normal", { recipe: steps }));
    expect(draft.preview.value).toBeNull();
    await choose(shown, "Add a step", "Strength");
    expect(draft.steps.value).toEqual([{ step: "flip_green" }, { step: "normal_strength", strength: 1 }]);
    await giveNumber(shown, "Strength, number", 3);
    expect(draft.steps.value[1]).toEqual({ step: "normal_strength", strength: 3 });
    expect(new URL(draft.preview.value!, "http://x").searchParams.get("recipe")).toContain('"strength":3');
    expect(shown.text()).toContain("Not applied yet");
    await button(shown, "Apply Enter").trigger("click");
    expect(shown.emitted("apply")).toHaveLength(1);
    await button(shown, "Discard Esc").trigger("click");
    expect(draft.dirty.value).toBe(false);
  });

  it("say which finding they remedy while they are tried", async () => {
    const { draft, shown } = panel(aMap("normal"));
    draft.tryStep({ step: "flip_green" }, "Flip green");
    await flushPromises();
    expect(shown.text()).toContain("Trying: Flip green");
  });

  it("are reordered, switched off and removed", async () => {
    const second = { step: "normal_strength", label: "Strength 2", off: true, options: { strength: 2 } };
    const { draft, shown } = panel(aMap("normal", { recipe: [...steps, second] }));
    expect(draft.steps.value[1]).toEqual({ step: "normal_strength", strength: 2, off: true });
    await button(shown, "Move Flip green down").trigger("click");
    expect(draft.steps.value.map((one) => one.step)).toEqual(["normal_strength", "flip_green"]);
    await shown.findAll("input[type=checkbox]")[0]!.setValue(true);
    expect(draft.steps.value[0]).toEqual({ step: "normal_strength", strength: 2 });
    await button(shown, "Remove Flip green").trigger("click");
    expect(draft.steps.value).toHaveLength(1);
  });

  it("are those that fit the role", async () => {
    const { shown } = panel(aMap("roughness"));
    await expect(choose(shown, "Add a step", "Strength")).rejects.toThrow("has Invert values,");
  });

  it("are not changed by those who may only look", () => {
    const { shown } = panel(aMap("normal", { recipe: steps }), { mayChange: false });
    expect(shown.text()).not.toContain("Add a step");
    expect(shown.get("input[type=checkbox]").attributes("disabled")).toBeDefined();
  });
});

describe("the facts of a map", () => {
  const height = {
    source: "height",
    role: "normal",
    estimate: true,
    recipe: [{ step: "normal_from_height" }],
  };
  const facts = (map: ReturnType<typeof aMap>, more = {}) =>
    mounted(MapFacts, {
      slug: "ferry",
      set: aSet([map], [], { licence: "CC-BY-4.0", credit: "Imke" }),
      map,
      roles: ROLES,
      mayChange: true,
      derivations: [height],
      others: [{ id: 2, name: "quay" }],
      ...more,
    });

  it("say what it is, how sure that is, and what it came as", () => {
    const shown = facts(aMap("roughness", { came_as: "old.png", source_width: 1024, source_height: 1024 }));
    expect(shown.text()).toContain("90 % sure: its name says so");
    expect(shown.text()).toContain("old.png");
    expect(shown.text()).toContain("512 × 512, 8 bits, Y (source 1024 × 1024)");
    expect(shown.text()).not.toContain("Make a map from this one");
  });

  it("offer another role, maps made from it, and other sets", async () => {
    const shown = facts(aMap("height"));
    await choose(shown, "Make a map from this one", "Normal (estimate)");
    await choose(shown, "Role", "Occlusion");
    await choose(shown, "Use in another set too", "quay");
    expect(shown.emitted()).toMatchObject({ derive: [[height]], role: [["occlusion"]], share: [[2]] });
  });

  it("tell the licence, which is changed in place", async () => {
    serve({ "GET /api/projects/ferry/sets": { roles: ROLES, sets: [], tiled: [], undecided: [] } });
    const shown = facts(aMap("height"));
    expect(shown.text()).toContain("CC-BY-4.0");
    expect(shown.text()).toContain("Imke");
    await button(shown, "Change the licence").trigger("click");
    expect(shown.find("form").exists()).toBe(true);
    expect(facts(aMap("height"), { mayChange: false }).text()).not.toContain("Change");
  });
});

describe("the strip of maps", () => {
  it("numbers them, marks the current one and the spares", async () => {
    const maps = [aMap("normal", { id: 1 }), aMap("normal", { id: 2, in_use: false })];
    const strip = mounted(MapStrip, { slug: "ferry", maps, roles: ROLES, current: 1 });
    const [first, second] = strip.findAll("button");
    expect(first!.attributes("aria-current")).toBe("true");
    expect(second!.text()).toContain("(not used)");
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
        { name: "small", title: "Small", green: "up", own: false, outputs: [] },
      ],
      "GET /api/projects/ferry/sets/1/outputs": outputs,
    });
    const maps = [aMap("occlusion", { id: 3 }), aMap("glossiness", { id: 4 })];
    const found = mounted(ChannelBoard, {
      slug: "ferry",
      set: aSet(maps),
      roles: ROLES,
      target: "orm",
      wanted: "",
    });
    await flushPromises();
    await flushPromises();
    return found;
  }

  it("shows the packed file first: each channel, its source, what is done to it", async () => {
    const shown = await board();
    expect(shown.text()).toContain("512 × 512 PNG, 8 bits, linear");
    const line = (letter: string) => shown.get(`[data-channel='${letter}']`).text();
    expect(line("r")).toContain("Occlusion");
    expect(line("r")).toContain("unchanged");
    expect(line("g")).toContain("Roughness from glossiness");
    expect(line("g")).toContain("Invert values");
    expect(line("b")).toContain("Metallic: constant 0");
    expect(shown.get("[data-channel='g'] [data-test='result']").attributes("src")).toContain("channel=g");
    expect(shown.get("a").attributes("href")).toContain("path=deck%2Fdeck_orm.png");
  });

  it("turns to another output, and passes the target on", async () => {
    const shown = await board();
    await choose(shown, "Output", "normal");
    expect(shown.emitted("update:wanted")!.at(-1)).toEqual(["deck/deck_normal.png"]);
    await shown.setProps({ wanted: "deck/deck_normal.png" });
    expect(shown.findAll("[data-channel]")).toHaveLength(1);
    await choose(shown, "Target", "Small");
    expect(shown.emitted("target")).toEqual([["small"]]);
    await button(shown, "Look at it large").trigger("click");
    expect(shown.emitted("large")).toHaveLength(1);
  });
});
