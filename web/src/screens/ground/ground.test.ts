import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import type { Ground } from "@/api/ground";
import { groundKinds, layer, mud, patch, patchRow, told } from "@/tests/ground";
import {
  button,
  choose,
  giveNumber,
  giveText,
  leave,
  mounted,
  serve,
  standInForBrowser,
  until,
} from "@/tests/mounting";

import GroundList from "./GroundList.vue";
import GroundScreen from "./GroundScreen.vue";
import GroundView from "./GroundView.vue";
import LandPanel from "./LandPanel.vue";
import RepetitionPanel from "./RepetitionPanel.vue";
import SectionLine from "./SectionLine.vue";

let page: ReturnType<typeof mounted>;
beforeEach(standInForBrowser);
afterEach(() => leave(page));
const PATH = "/api/projects/ferry/grounds";

function served(one: Ground = patch(), right = "prepare", made = one) {
  return serve({
    "GET /api/catalogue": { ground: groundKinds },
    "GET /api/projects/ferry": { slug: "ferry", right },
    [`GET ${PATH}`]: [patchRow()],
    [`POST ${PATH}`]: patch({ id: 8 }),
    [`GET ${PATH}/7`]: one,
    [`PATCH ${PATH}/7`]: made,
    [`DELETE ${PATH}/7/strokes`]: one,
    [`GET ${PATH}/7/repetition`]: [told(), told({ layer: "Mud", is_seen: false, strength: 0.04 })],
    "GET /api/projects/ferry/materials": { masters: [], casts: [{ id: 3, name: "Wet mud" }] },
    "GET /api/projects/ferry/sets": {
      sets: [
        { id: 4, name: "reed_bed" },
        { id: 5, name: "tidal-mud" },
      ],
      tiled: [],
      undecided: [],
    },
  });
}
async function opened(one: Ground = patch(), mayChange = true) {
  const calls = served(one);
  page = mounted(GroundView, { slug: "ferry", id: 7, mayChange });
  await until(() => page.get("[data-test='layer Mud']"));
  return calls;
}
const card = (name: string) => page.get(`[data-test='layer ${name}']`);
const sent = (calls: { method: string; body?: unknown }[]) =>
  calls.filter((one) => one.method === "PATCH").at(-1)?.body as Record<string, never> & {
    layers: { name: string; [key: string]: unknown }[];
  };

describe("the list of patches", () => {
  it("says how many layers there are, and how many wear nothing", () => {
    page = mounted(GroundList, {
      slug: "ferry",
      rows: [patchRow(), patchRow({ id: 8, empty: 1 })],
      chosen: 7,
    });
    expect(page.text()).toContain("2 layers");
    expect(page.text()).toContain("2 layers, 1 empty");
    expect(page.text()).toContain("48 × 48 m");
  });
});

describe("the screen of ground", () => {
  it("begins a new patch", async () => {
    const calls = served();
    page = mounted(GroundScreen, { slug: "ferry" });
    await until(() => button(page, "New ground"));
    await button(page, "New ground").trigger("click");
    await until(() => expect(calls.some((one) => one.method === "POST")).toBe(true));
  });

  it("offers nothing that changes to people who may only look", async () => {
    served(patch(), "look");
    page = mounted(GroundScreen, { slug: "ferry" });
    await until(() => page.get("[data-test='layer Mud']"));
    expect(page.text()).not.toContain("New ground");
    expect(page.text()).not.toContain("Add a layer");
  });
});

describe("layers", () => {
  it("lie from the highest to the lowest", async () => {
    await opened();
    const names = page.findAll("[data-test^='layer ']").map((one) => one.attributes("data-test"));
    expect(names).toEqual(["layer Mud", "layer Reeds"]);
  });

  it("are marked while they wear nothing", async () => {
    await opened(patch({ layers: [layer(), { ...mud, worn: null }] }));
    expect(card("Mud").classes()).toContain("empty");
  });

  it("wear another set", async () => {
    const calls = await opened();
    await choose(page, "What Mud wears", "reed_bed");
    await until(() => expect(sent(calls)?.layers[1]).toMatchObject({ wears: { kind: "set", id: 4 } }));
    expect(sent(calls).label).toBe("What Mud wears");
  });

  it("get another tile, and keep all else", async () => {
    const calls = await opened();
    await giveNumber(page, "Tile of Mud", 9);
    await until(() => expect(sent(calls)?.layers[1]).toMatchObject({ key: "l2", tile: 9, rule: mud.rule }));
    expect(sent(calls).layers[1]).not.toHaveProperty("worn");
  });

  it("follow rules that are added, changed and taken out", async () => {
    const calls = await opened();
    await card("Mud").get(".name").trigger("click");
    await giveNumber(page, "Altitude, to", 2);
    await until(() =>
      expect(sent(calls)?.layers[1]!.rule).toEqual([{ measure: "altitude", to: 2, fade: 0.5 }]),
    );
    await button(page, "Add a measure").trigger("click");
    await until(() => expect(sent(calls).layers[1]!.rule).toHaveLength(2));
    await page.get("[aria-label='Take Altitude out']").trigger("click");
    await until(() => expect(sent(calls).layers[1]!.rule).toEqual([]));
  });

  it("are called otherwise, moved and taken out", async () => {
    const calls = await opened();
    await card("Mud").get(".name").trigger("click");
    await giveText(page, "Name of Mud", "Silt");
    await until(() => expect(sent(calls)?.layers[1]).toMatchObject({ name: "Silt" }));
    await button(page, "Lower").trigger("click");
    await until(() => expect(sent(calls).layers.map((one) => one.name)).toEqual(["Mud", "Reeds"]));
    await button(page, "Take layer out").trigger("click");
    await until(() => expect(sent(calls).layers).toHaveLength(1));
  });

  it("keep what was changed a moment before, whatever the page shows meanwhile", async () => {
    // The page goes on to show what it showed at first.
    const made = patch({ revision: 4, layers: [layer(), { ...mud, tile: 9 }] });
    const calls = served(patch(), "prepare", made);
    page = mounted(GroundView, { slug: "ferry", id: 7, mayChange: true });
    await until(() => page.get("[data-test='layer Mud']"));
    await giveNumber(page, "Tile of Mud", 9);
    await choose(page, "What Mud wears", "reed_bed");
    await until(() => expect(sent(calls)?.layers[1]).toMatchObject({ tile: 9, wears: { id: 4 } }));
  });

  it("are added on top with a rule of their own", async () => {
    const calls = await opened();
    await button(page, "Add a layer").trigger("click");
    await until(() => expect(sent(calls)?.layers[2]).toMatchObject({ key: "", name: "Layer 3" }));
    expect(sent(calls).layers[2]!.rule).toMatchObject([{ measure: "noise" }]);
  });

  it("are painted with a brush that is set where it is used", async () => {
    await opened();
    await card("Mud").get(".name").trigger("click");
    expect(page.text()).not.toContain("Soft edge");
    await button(page, "Paint").trigger("click");
    expect(page.text()).toContain("Soft edge");
    expect(button(page, "Paint").attributes("aria-pressed")).toBe("true");
    await button(page, "Take away").trigger("click");
    expect(button(page, "Paint").attributes("aria-pressed")).toBe("false");
  });

  it("lose what was painted on them where that is asked", async () => {
    const calls = await opened(patch({ layers: [layer(), { ...mud, strokes: 2 }] }));
    await card("Mud").get(".name").trigger("click");
    await button(page, "Clear painting").trigger("click");
    await until(() => expect(calls.some((one) => one.method === "DELETE")).toBe(true));
  });

  it("cannot be painted where they lie everywhere anyway", async () => {
    await opened();
    await card("Reeds").get(".name").trigger("click");
    expect(page.text()).toContain("lies wherever no other does");
    expect(page.text()).not.toContain("Corrected by hand");
  });
});

describe("the land", () => {
  const changed = (now: Ground) => (page.emitted("change")!.at(-1)![0] as (one: Ground) => unknown)(now);
  const panel = (one: Ground) => mounted(LandPanel, { slug: "ferry", ground: one, mayChange: true });

  it("is shaped by numbers", async () => {
    page = panel(patch());
    await giveNumber(page, "Highest place in metres", 5);
    expect(changed(patch())).toEqual({ shape: { kind: "made", low: -1, high: 5, seed: 1 } });
  });

  it("names its height map, and goes back to a made shape", async () => {
    page = panel(patch({ shape: { kind: "map", low: 0, high: 9, map: "land.png" } }));
    expect(page.text()).toContain("land.png");
    expect(page.text()).not.toContain("Hills");
    await button(page, "Generate instead").trigger("click");
    expect(changed(patch())).toMatchObject({ shape: { kind: "made" } });
  });

  it("says how its weights are written", async () => {
    page = panel(patch());
    await choose(page, "Layers in a file", "3 layers a file (RGB)");
    expect(changed(patch())).toEqual({ each: 3 });
  });
});

describe("repetition", () => {
  const panel = (helped: string) =>
    mounted(RepetitionPanel, {
      ground: patch(),
      told: [told(), told({ layer: "Mud", is_seen: false, strength: null, remedies: [] })],
      waiting: false,
      problem: "",
      mayChange: true,
      distance: 20,
      helped,
    });

  it("says of each layer how strongly its tile is seen", () => {
    page = panel("");
    expect(page.get("[data-test='repetition Reeds']").text()).toContain("tile is seen, 58 %");
    expect(page.get("[data-test='repetition Mud']").text()).toContain("too little of it in view");
  });

  it("offers what helps, and takes it", async () => {
    page = panel("l1");
    expect(page.text()).toContain("1 % with Hexagons");
    await page.get("[aria-label='Use Hexagons']").trigger("click");
    expect(page.emitted("change")!.at(-1)!.slice(0, 2)).toMatchObject(["l1", { repeat: "hexagons" }]);
    await page.get("[aria-label='Use tiles of 21.1 m']").trigger("click");
    expect(page.emitted("change")!.at(-1)!.slice(0, 2)).toEqual(["l1", { tile: 21.1 }]);
  });

  it("is asked for when its page is opened", async () => {
    const calls = await opened();
    expect(calls.some((one) => one.path.includes("repetition"))).toBe(false);
    await page.findAll("[role=tab]")[2]!.trigger("click");
    await until(() => expect(page.text()).toContain("tile is seen, 58 %"));
    await page.get("[aria-label='What helps Reeds']").trigger("click");
    await flushPromises();
    await until(() => expect(page.text()).toContain("1 % with Hexagons"));
  });
});

describe("a section", () => {
  it("tells length and heights along the line", () => {
    const heights = new Float32Array(16).map((_, at) => at % 4);
    const line = { from: { x: 0.5, y: 2 }, to: { x: 3.5, y: 2 } };
    page = mounted(SectionLine, { land: { heights, side: 4, metres: 4 }, line });
    expect(page.text()).toContain("3.0 m long, from 0.00 m to 3.00 m high");
  });
});
