import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Delivery, Plan, PlannedFile } from "@/api/types";
import { aMap, aSet, mounted, ROLES, serve } from "@/tests/mounting";

import DeliveriesScreen from "./DeliveriesScreen.vue";
import PlannedFiles from "./PlannedFiles.vue";
import { bySet, countsOf } from "./plan";

function planned(path: string, status: string, more: Partial<PlannedFile> = {}): PlannedFile {
  return {
    path,
    set: "deck",
    cast: "",
    model: "",
    ground: "",
    kind: "map",
    status,
    container: "png",
    width: 512,
    height: 512,
    bits: 8,
    format: null,
    memory: 1398100,
    channels: "rgb",
    colour_space: "linear",
    green: null,
    steps: [],
    why: [],
    ...more,
  };
}

const plan: Plan = {
  target: "orm-y-minus",
  memory: 1398100,
  budget: null,
  files: [
    planned("deck/deck_normal.png", "changed", { green: "down", steps: ["Flip green"] }),
    planned("deck/deck_color.png", "unchanged", { colour_space: "srgb" }),
    planned("deck/deck.gltf", "new", { kind: "material", width: 0 }),
  ],
  orphaned: ["hull/hull_orm.png"],
  carried: [],
  problems: ["hull: hull_n.png: a grey picture cannot serve as a normal map"],
};

const done: Delivery = {
  number: 3,
  target: "orm-y-minus",
  title: "Packs",
  created: "2026-11-23T22:00:00Z",
  by: "ada",
  sets: 2,
  state: "done",
  job: 1,
  message: "",
  counts: { new: 4, changed: 0, orphaned: 1 },
  problems: [],
  folder: "/somewhere/0003-orm-y-minus",
  gone: null,
  mirror: null,
};

afterEach(() => vi.unstubAllGlobals());

describe("the list before a delivery", () => {
  it("stands by set, those with something new or changed first", () => {
    const files = [
      planned("a", "unchanged", { set: "bell" }),
      planned("b", "unchanged"),
      planned("c", "new"),
    ];
    expect(bySet(files).map((one) => [one.set, one.status, one.files.length])).toEqual([
      ["deck", "new", 2],
      ["bell", "unchanged", 1],
    ]);
    expect(countsOf(files)).toBe("3 files: 1 new, 2 unchanged");
  });

  it("says of each file what happens to it, and how it is written", () => {
    const rows = mounted(PlannedFiles, { files: plan.files }).findAll("tbody tr");
    const [changed, same, made] = rows.map((one) => one.text());
    expect(changed).toContain("changed");
    expect(changed).toContain("PNG RGB 8 bits, linear, Y-");
    expect(changed).toContain("Flip green");
    expect(same).toContain("sRGB");
    expect(made).toContain("glTF 2.0 material");
  });
});

describe("the deliveries", () => {
  /** refused: the set with errors cannot be written, so that the plan leaves it out. */
  async function screen(deliveries: Delivery[], jobs: unknown[] = [], refused = false) {
    const bell = planned("bell/bell_normal.png", "new", { set: "bell" });
    const sets = [aSet([aMap("normal")], [], { id: 1 }), aSet([], [], { id: 2, name: "bell", errors: 1 })];
    const calls = serve({
      "GET /api/projects/ferry": {
        slug: "ferry",
        name: "Ferry",
        target: "orm-y-minus",
        right: "prepare",
        sets: 2,
      },
      "GET /api/projects/ferry/sets": {
        roles: ROLES,
        sets,
        tiled: [],
        undecided: [],
        undo: null,
        redo: null,
      },
      "GET /api/projects/ferry/targets": [
        { name: "orm-y-minus", title: "Packs", green: "down", own: false, outputs: [] },
      ],
      "GET /api/projects/ferry/deliveries": deliveries,
      "GET /api/projects/ferry/destinations": [],
      "GET /api/projects/ferry/jobs": jobs,
      "POST /api/projects/ferry/deliveries/plan": ({ sets }: { sets: number[] }) =>
        sets.includes(2) && !refused ? { ...plan, files: [...plan.files, bell] } : plan,
      "POST /api/projects/ferry/deliveries": done,
      "POST /api/projects/ferry/jobs/1/cancel": {},
    });
    const page = mounted(DeliveriesScreen, { slug: "ferry" });
    for (let round = 0; round < 6; round++) await flushPromises();
    return { page, calls };
  }

  it("leave sets with errors out until they are ticked, then warn", async () => {
    const { page, calls } = await screen([]);
    expect(page.text()).toContain("Deliver 1 set");
    const asked = calls.filter((call) => call.path.endsWith("/plan")).at(-1)!;
    expect(asked.body).toEqual({
      target: "orm-y-minus",
      sets: [1],
      casts: [],
      models: [],
      grounds: [],
      keep_others: true,
      destinations: [],
    });
    await page.findAll(".set input")[1]!.trigger("change");
    for (let round = 0; round < 4; round++) await flushPromises();
    expect(page.text()).toContain("1 of the sets has errors");
    expect(page.text()).toContain("Deliver 2 sets");
  });

  it("warn of no errors in what is left out anyway", async () => {
    const { page } = await screen([], [], true);
    await page.findAll(".set input")[1]!.trigger("change");
    for (let round = 0; round < 4; round++) await flushPromises();
    expect(page.text()).toContain("Left out");
    expect(page.text()).not.toContain("has errors");
  });

  it("show what is left out and why, and what the last delivery had", async () => {
    const { page } = await screen([]);
    expect(page.get("[data-plan='deck']").attributes("data-status")).toBe("new");
    expect(page.get("[role='alert']").text()).toContain("Left out: hull");
    expect(page.get("[data-status='orphaned']").text()).toContain("hull/hull_orm.png");
  });

  it("order what the list shows", async () => {
    const { page, calls } = await screen([]);
    await page.get("header button").trigger("click");
    await flushPromises();
    const order = calls.find((call) => call.method === "POST" && call.path.endsWith("/deliveries"))!;
    expect(order.body).toEqual({
      target: "orm-y-minus",
      sets: [1],
      casts: [],
      models: [],
      grounds: [],
      keep_others: true,
      destinations: [],
    });
  });

  it("show what came of each: folder and zip, progress and cancel, failure", async () => {
    const running = { ...done, number: 4, state: "running", folder: null, counts: {} };
    const failed = { ...done, number: 2, state: "failed", message: "the disk is full", folder: null };
    const { page, calls } = await screen(
      [running, done, failed],
      [{ id: 1, state: "running", done: 5, total: 10, message: "deck_orm.png" }],
    );
    const one = (number: number) => page.get(`[data-delivery='${number}']`);
    expect(one(3).text()).toContain("4 new, 1 orphaned");
    expect(one(3).get("a").attributes("href")).toBe("/api/projects/ferry/deliveries/3/zip");
    expect(one(2).text()).toContain("the disk is full");
    expect(one(4).text()).toContain("deck_orm.png");
    await one(4).get("button").trigger("click");
    await flushPromises();
    expect(calls.some((call) => call.path === "/api/projects/ferry/jobs/1/cancel")).toBe(true);
  });
});
