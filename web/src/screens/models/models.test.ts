import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import type { Model } from "@/api/models";
import { button, choose, giveText, leave, mounted, serve, standInForBrowser, until } from "@/tests/mounting";

import ModelFacts from "./ModelFacts.vue";
import ModelFindings from "./ModelFindings.vue";
import ModelList from "./ModelList.vue";
import ModelsScreen from "./ModelsScreen.vue";
import ModelView from "./ModelView.vue";
import { model, proposal, rope, row, slot } from "@/tests/models";
import SlotList from "./SlotList.vue";

let page: ReturnType<typeof mounted>;
beforeEach(standInForBrowser);
afterEach(() => leave(page));

const PATH = "/api/projects/ferry/models";

function served(one: Model, more: Record<string, unknown> = {}) {
  return serve({
    "GET /api/projects/ferry": { slug: "ferry", right: "prepare" },
    [`GET ${PATH}`]: [row()],
    [`GET ${PATH}/7`]: one,
    [`GET ${PATH}/7/proposals`]: [{ key: "M_hull", proposals: [proposal()] }],
    "GET /api/projects/ferry/materials": { masters: [], casts: [{ id: 3, name: "Bell" }] },
    "GET /api/projects/ferry/sets": {
      sets: [
        { id: 4, name: "mooring_rope" },
        { id: 5, name: "hull_plate" },
      ],
      tiled: [],
      undecided: [],
    },
    ...more,
  });
}

describe("the list of models", () => {
  it("says what is empty, wrong or not measured yet", () => {
    const rows = [
      row(),
      row({ id: 8, name: "Lamp", state: "measuring" }),
      row({ id: 9, state: "unreadable" }),
    ];
    page = mounted(ModelList, { slug: "ferry", rows, chosen: 7 });
    expect(page.text()).toContain("2 slots, 1 empty");
    expect(page.text()).toContain("Being measured");
    expect(page.text()).toContain("Cannot be read");
  });

  it("chooses one", async () => {
    page = mounted(ModelList, { slug: "ferry", rows: [row()], chosen: 0 });
    await page.find("button").trigger("click");
    expect(page.emitted("choose")).toEqual([[7]]);
  });
});

describe("the slots of a model", () => {
  const slots = (more: Record<string, unknown> = {}) =>
    mounted(SlotList, {
      slug: "ferry",
      model: model(),
      proposals: [{ key: "M_hull", proposals: [proposal()] }],
      casts: [{ id: 3, name: "Bell" }],
      sets: [{ id: 5, name: "hull_plate" }],
      mayChange: true,
      hidden: [],
      slot: 0,
      ...more,
    });

  it("say what is proposed and why, and take it", async () => {
    page = slots();
    expect(page.text()).toContain("Probably hull_plate (95 %)");
    expect(page.text()).toContain("by the slot's name");
    await button(page, "Take hull_plate for M_hull").trigger("click");
    expect(page.emitted("assign")).toEqual([["M_hull", { kind: "set", id: 5 }]]);
  });

  it.each([
    ["texture", "its file names the texture hull.png"],
    ["part", "by the part's name, hull.png"],
    ["file", "by the file's name, hull.png"],
  ] as const)("name what proposes: %s", (why, words) => {
    page = slots({ proposals: [{ key: "M_hull", proposals: [proposal({ why, word: "hull.png" })] }] });
    expect(page.text()).toContain(words);
  });

  it("wear what is chosen, and nothing again", async () => {
    page = slots();
    await choose(page, "What M_hull wears", "Bell");
    await choose(page, "What rope wears", "Nothing");
    expect(page.emitted("assign")).toEqual([
      ["M_hull", { kind: "cast", id: 3 }],
      ["rope", null],
    ]);
  });

  it("show parts, density and textures of the one in hand", () => {
    page = slots();
    expect(page.text()).toContain("512 texels a metre");
    expect(page.text()).toContain("25.0 % overlap");
    expect(page.text()).toContain("maps/hull_bc.png");
    expect(page.text()).not.toContain("coil");
  });

  it("are split by part, shown alone and called otherwise", async () => {
    page = slots();
    await button(page, "Give rail a slot of its own").trigger("click");
    await button(page, "Show alone").trigger("click");
    await giveText(page, "Name when delivered", "Hull");
    expect(page.emitted("split")).toEqual([["M_hull", "rail"]]);
    expect(page.emitted("solo")).toEqual([[0]]);
    expect(page.emitted("call")).toEqual([["M_hull", "Hull"]]);
  });

  it("have their maps filled between islands, where they wear something", async () => {
    page = slots({ slot: 1 });
    await button(page, "Fill between islands").trigger("click");
    expect(page.emitted("fill")).toEqual([[1]]);
  });

  it("share a slot again that they were split from", async () => {
    const split = slot({ key: "M_hull (rail)", parts: ["rail"], split_from: "M_hull" });
    page = slots({ model: model({ slots_out: [split] }) });
    await button(page, "Share M_hull again").trigger("click");
    expect(page.emitted("join")).toEqual([["M_hull", "rail"]]);
  });

  it("tell what does not exist any more, and what wears the same", () => {
    const gone = slot({ worn: { kind: "set", id: 99, name: null, region: null }, shared_with: [1] });
    page = slots({ model: model({ slots_out: [gone, rope] }) });
    expect(page.text()).toContain("does not exist any more");
    expect(page.text()).toContain("The same as on rope");
  });

  it("offer nothing to change to those who may only look", () => {
    page = slots({ mayChange: false });
    expect(page.text()).not.toContain("Probably");
    expect(page.text()).not.toContain("Own slot");
  });
});

describe("findings of a model", () => {
  it("lead to their slot; empty slots are told where they are", async () => {
    page = mounted(ModelFindings, { model: model() });
    expect(page.text()).toContain("1 finding");
    expect(page.text()).not.toContain("Nothing is assigned");
    await button(page, "rope").trigger("click");
    expect(page.emitted("show")).toEqual([[1]]);
  });
});

describe("the file of a model", () => {
  const facts = (more: Record<string, unknown> = {}) =>
    mounted(ModelFacts, { model: model(), mayChange: true, hidden: [], ...more });

  it("tells parts with their levels, size and what is not looked at", () => {
    page = facts();
    expect(page.text()).toContain("1,000 / 200");
    expect(page.text()).toContain("12 m x 4 m x 5 m");
    expect(page.text()).toContain("animations are kept");
  });

  it("hides and shows parts", async () => {
    page = facts();
    await page.findAll("input[type=checkbox]")[1]!.trigger("change");
    expect(page.emitted("update:hidden")).toEqual([[["coil"]]]);
  });

  it("changes its unit, brings versions back, and goes", async () => {
    page = facts();
    await choose(page, "One unit is", "1 centimetre");
    await button(page, "Use this one").trigger("click");
    await button(page, "Delete").trigger("click");
    expect(page.emitted("scale")).toEqual([[0.01]]);
    expect(page.emitted("back")).toEqual([[1]]);
    expect(page.emitted("remove")).toHaveLength(1);
  });

  it("offers to take its own textures in", async () => {
    page = facts();
    await button(page, "Take in its textures").trigger("click");
    expect(page.emitted("textures")).toHaveLength(1);
  });

  it("has a unit that somebody gave by a script", () => {
    page = facts({ model: model({ metres: 0.5 }) });
    expect(page.text()).toContain("0.5 m");
  });
});

describe("one model", () => {
  it("takes every sure proposal at once, by a button or by A", async () => {
    const calls = served(model({ state: "measuring" }), { [`PATCH ${PATH}/7`]: model() });
    page = mounted(ModelView, { slug: "ferry", id: 7, mayChange: true });
    await flushPromises();
    await until(() => button(page, "Take 1 proposal"));
    await button(page, "Take 1 proposal").trigger("click");
    await flushPromises();
    const sent = calls.find((one) => one.method === "PATCH");
    expect(sent?.body).toEqual({ wears: { M_hull: { kind: "set", id: 5 } } });
  });

  it("does what is asked one after the other, each on top of the one before", async () => {
    const seen: (string | null)[] = [];
    let revision = 3;
    served(model({ state: "measuring" }), {
      [`PATCH ${PATH}/7`]: (_body: unknown, header: string | null) => {
        seen.push(header);
        return model({ revision: ++revision });
      },
    });
    page = mounted(ModelView, { slug: "ferry", id: 7, mayChange: true });
    await until(() => button(page, "Take 1 proposal"));
    void choose(page, "What M_hull wears", "Bell");
    await choose(page, "What rope wears", "Nothing");
    await until(() => expect(seen).toEqual(['"3"', '"4"']));
  });

  it("says why it cannot be read, and tries again", async () => {
    const calls = served(model({ state: "unreadable", problem: "its mesh is compressed" }), {
      [`POST ${PATH}/7/measure`]: model(),
    });
    page = mounted(ModelView, { slug: "ferry", id: 7, mayChange: true });
    await until(() => expect(page.text()).toContain("its mesh is compressed"));
    await button(page, "Try again").trigger("click");
    await flushPromises();
    expect(calls.some((one) => one.path.endsWith("/measure"))).toBe(true);
  });
});

describe("the screen of models", () => {
  it("teaches what to drop where there is none", async () => {
    served(model(), { [`GET ${PATH}`]: [] });
    page = mounted(ModelsScreen, { slug: "ferry" });
    await until(() => expect(page.text()).toContain("No model yet"));
    expect(page.text()).toContain("Drop a mesh file here");
  });

  it("counts slots that are empty", async () => {
    served(model({ state: "measuring" }));
    page = mounted(ModelsScreen, { slug: "ferry" });
    await until(() => expect(page.text()).toContain("1 model, 1 slot is empty"));
  });

  it("sends what is chosen together", async () => {
    const calls = served(model({ state: "measuring" }), { [`POST ${PATH}`]: model() });
    page = mounted(ModelsScreen, { slug: "ferry" });
    await until(() => page.get("[data-test=model]"));
    const field = page.get<HTMLInputElement>("[data-test=model]").element;
    Object.defineProperty(field, "files", {
      value: [new File(["x"], "boat.obj"), new File(["y"], "boat.mtl")],
    });
    await page.get("[data-test=model]").trigger("change");
    await flushPromises();
    expect(calls.filter((one) => one.method === "POST").map((one) => one.path)).toEqual([PATH]);
  });
});
