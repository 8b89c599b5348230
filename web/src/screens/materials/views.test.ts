import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Adoption, Cast, CastRow, Master, SheetSlot } from "@/api/materials";
import { button, choose, mounted, serve } from "@/tests/mounting";

import CompareView from "./CompareView.vue";
import ImportView from "./ImportView.vue";
import MaterialList from "./MaterialList.vue";
import { keysWithChildren, treeOf } from "./materialTree";
import SlotCards from "./SlotCards.vue";
import VersionTrail from "./VersionTrail.vue";

afterEach(() => vi.unstubAllGlobals());

const castRow = (id: number, name: string, more: Partial<CastRow> = {}): CastRow => ({
  id,
  name,
  master: "solid",
  parent: null,
  changes: 0,
  worst: null,
  ...more,
});
const adoption = (more: Partial<Adoption> = {}): Adoption =>
  ({
    master: "solid",
    title: "Solid",
    number: "1.0.0",
    newest: "2.0.0",
    update_available: true,
    pinned: false,
    deprecated: false,
    casts: 2,
    over_budget: [],
    used_variants: 1,
    ...more,
  }) as Adoption;
describe("the list of materials", () => {
  const list = (more: Record<string, unknown> = {}) =>
    mounted(MaterialList, {
      slug: "ferry",
      masters: [adoption({ over_budget: ["9 texture reads, at most 8"] })],
      casts: [castRow(3, "Deck, wet", { parent: 2 }), castRow(2, "Deck", { worst: "error" })],
      cast: 0,
      master: "solid",
      mayChange: true,
      ...more,
    });

  it("puts casts below what they derive from, and says what is new and costs too much", () => {
    const shown = list({ cast: 3 });
    expect(shown.findAll(".node").map((one) => one.text())).toEqual([
      expect.stringContaining("Solid"),
      "Deck error",
      "Deck, wet",
    ]);
    expect(shown.text()).toContain("Update available: 2.0.0");
    expect(shown.get("[data-test=over-budget]").text()).toContain("9 texture reads, at most 8");
  });

  it("finds casts by name, with those above them", () => {
    const rows = [castRow(1, "Deck"), castRow(2, "Wet", { parent: 1 }), castRow(3, "Hull")];
    const tree = treeOf([adoption(), adoption({ master: "leaf", title: "Leaf" })], rows, "wet");
    const names = (nodes: typeof tree): unknown[] =>
      nodes.map((one) => [one.label, ...names(one.children ?? [])]);
    expect(names(tree)).toEqual([["Solid", ["Deck", ["Wet"]]]]);
    expect(Object.keys(keysWithChildren(tree))).toEqual(["master solid", "cast 1"]);
    expect(treeOf([adoption()], rows, "nothing like it")).toEqual([]);
  });

  it("draws no cast of a closed master, however many there are", () => {
    const many = Array.from({ length: 5000 }, (_, at) => castRow(at + 1, `Cast ${at}`));
    const masters = Array.from({ length: 8 }, (_, at) => adoption({ master: at ? `m${at}` : "solid" }));
    expect(list({ casts: many, masters }).findAll(".node")).toHaveLength(8);
  });

  it("derives from the cast that is open, else from the master", async () => {
    for (const [cast, from] of [
      [0, [{ master: "solid" }, "Solid"]],
      [2, [{ parent: 2 }, "Deck"]],
    ] as const) {
      const shown = list({ cast });
      await button(shown, "New cast").trigger("click");
      expect(shown.emitted("derive")![0]).toEqual(from);
    }
    expect(list({ mayChange: false }).text()).not.toContain("New cast");
  });
});

describe("a file that masters are read from", () => {
  const document = { name: "quay", title: "Quay", inputs: { roughness: "dull" } };
  const read = {
    document,
    lost: ["KHR_materials_ior: the sheet's surface has nothing like it"],
    pictures: [],
    casts: [
      { name: "Wet", changes: { dull: 0.2, shade: [1, 0.5, 0] }, files: { colour: "wet_bc.png" } },
      { name: "Dry", changes: {}, files: {} },
    ],
  };
  const opened = async (answers: Record<string, unknown>) => {
    const calls = serve(answers);
    vi.stubGlobal("fetch", withFiles(fetch));
    const shown = mounted(ImportView, { slug: "ferry", file: new File(["{}"], "quay.gltf") });
    await flushPromises();
    await flushPromises();
    return { calls, shown };
  };
  /** What is uploaded is no JSON: the stand-in for the server gets it without a body. */
  const withFiles = (served: typeof fetch) =>
    (async (asked: Request) =>
      served(
        asked.url.endsWith("/import") && !asked.url.includes("projects")
          ? new Request(asked.url, { method: "POST" })
          : asked,
      )) as typeof fetch;

  it("shows rows, casts and what is lost, and takes all of it at once", async () => {
    const { calls, shown } = await opened({
      "POST /api/masters/import": [read],
      "POST /api/projects/ferry/materials/import": {
        master: "quay",
        casts: [
          { id: 4, name: "Wet" },
          { id: 5, name: "Dry 2" },
        ],
        unfilled: [{ cast: "Wet", slot: "colour", file: "wet_bc.png" }],
      },
    });
    expect(shown.get('[aria-label="Not read"]').text()).toContain("KHR_materials_ior");
    const casts = shown.get('[aria-label="Casts"]').text();
    expect(casts).toContain("dull 0.2, shade 1 0.5 0");
    expect(casts).toContain("colour = wet_bc.png");
    expect(casts).toContain("nothing");
    await button(shown, "Add with its 2 casts").trigger("click");
    await flushPromises();
    expect(calls.at(-1)?.body).toEqual({ document, casts: read.casts, note: "" });
    expect(shown.get('[role="status"]').text()).toContain("Dry 2");
    expect(shown.get('[aria-label="Slots left empty"]').text()).toContain("no set here holds wet_bc.png");
    expect(shown.text()).not.toContain("Add to the library");
  });

  it("says why it cannot be read", async () => {
    const { shown } = await opened({});
    expect(shown.get('[role="alert"]').text()).toContain("no answer");
  });
});

describe("casts side by side", () => {
  const parameter = { kind: "number", group: "", help: "", low: 0, high: 4, unit: "", options: [] };
  const comparison = {
    title: "Solid",
    parameters: [
      { ...parameter, name: "relief", title: "Relief", default: [1] },
      { ...parameter, name: "dirt", title: "Dirt", default: [0] },
    ],
    slots: [{ name: "colour", title: "Colour" }],
    casts: [
      {
        id: 2,
        name: "Deck",
        changed: ["relief"],
        values: { relief: [2], dirt: [0] },
        fills: { colour: "deck" },
      },
      { id: 3, name: "Hull", changed: [], values: { relief: [1], dirt: [0] }, fills: { colour: "" } },
    ],
  };

  it("show what differs, and set one value for all that are selected", async () => {
    const calls = serve({
      "GET /api/projects/ferry/materials/masters/solid/compare": comparison,
      "PATCH /api/projects/ferry/materials/2": {},
    });
    const shown = mounted(CompareView, { slug: "ferry", master: "solid", mayChange: true });
    await flushPromises();
    const rows = () => shown.findAll("tbody th").map((one) => one.text());
    expect(rows()).toEqual(["Relief", "Colour"]);
    expect(shown.findAll("td.own").map((one) => one.text())).toEqual(["2"]);
    expect(shown.text()).toContain("no map");
    await shown.get("header input").setValue(true);
    expect(rows()).toEqual(["Relief", "Dirt", "Colour"]);
    for (const name of ["Deck", "Hull"]) await shown.get(`[aria-label="Select ${name}"]`).setValue(true);
    await choose(shown, "Parameter to set", "Relief");
    await button(shown, "Reset").trigger("click");
    await flushPromises();
    const sent = calls.find((one) => one.method === "PATCH");
    expect(sent?.body).toMatchObject({ changes: { relief: null }, casts: [3] });
  });
});

describe("a slot", () => {
  const slot = { name: "bumps", title: "Relief", role: "normal", takes: "Normal", colour_space: "linear" };
  const strip = (checks: [string, string][]) =>
    mounted(SlotCards, {
      slug: "ferry",
      sheet: { slots: [{ ...slot, default: "flat_normal" } as SheetSlot] },
      cast: {
        fills: [{ slot: "bumps", set: 7, set_name: "deck", role: "roughness", own: true, version: 3 }],
        remarks: checks.map(([check, severity]) => ({
          check,
          severity,
          slot: "bumps",
          message: `about ${check}`,
        })),
      } as unknown as Cast,
      sets: [{ id: 7, name: "deck" }],
      roles: [{ key: "roughness", label: "Roughness" }],
      mayChange: true,
    });

  it("shows what fills it, unless there is nothing to show", () => {
    expect(strip([]).get("img").attributes("src")).toContain("set=7");
    expect(strip([["map_missing", "error"]]).text()).toContain("flat normal");
  });

  it("offers the remedy of what is filled wrongly, here or on the set's page", async () => {
    const shown = strip([
      ["wrong_role", "error"],
      ["licence_refused", "error"],
      ["green_turned", "note"],
    ]);
    await button(shown, "Use the set's normal").trigger("click");
    expect(shown.emitted("fill")![0]).toEqual(["bumps", { set: 7 }]);
    expect(shown.get("a").attributes("href")).toBe("/set/ferry/7");
    await choose(shown, "Set for Relief", "No map");
    expect(shown.emitted("fill")![1]).toEqual(["bumps", null]);
  });
});

it("what is wrong with a set is said once, however many slots it fills", () => {
  const titles = ["Colour", "Relief"];
  const shown = mounted(SlotCards, {
    slug: "ferry",
    sheet: {
      slots: titles.map((title) => ({ name: title, title, takes: "A map", default: "mid" })),
    },
    cast: {
      fills: titles.map((slot) => ({ slot, set: 7, set_name: "deck", role: null, own: true, version: 1 })),
      remarks: titles.map((slot) => ({
        check: "licence_refused",
        severity: "error",
        slot,
        message: "Not here.",
      })),
    } as unknown as Cast,
    sets: [],
    roles: [],
    mayChange: true,
  });
  expect(shown.findAll(".remark").map((one) => one.text())).toEqual([
    "error Not here. Open deck",
    "error As in Colour.",
  ]);
});

it("a version tells what it changed and who uses it, a draft is published with a note", async () => {
  const version = {
    number: "1.0.0",
    note: "First",
    by: "ada",
    created: "2026-11-02T10:00:00Z",
    deprecated: true,
  };
  const change = { message: "Relief has another default", before: "1", after: "2", breaks: "changes" };
  const shown = mounted(VersionTrail, {
    slug: "ferry",
    busy: false,
    master: {
      draft: true,
      may_write: true,
      versions: [{ ...version, changes: [change] }],
      users: [
        { number: "1.0.0", title: "Ferry", casts: 3 },
        { number: "1.0.0", title: null, casts: 1 },
      ],
    } as unknown as Master,
  });
  await button(shown, "1.0.0").trigger("click");
  expect(shown.get(".facts").text()).toContain("Used by Ferry (3), a project of others (1)");
  const cells = shown.findAll("[data-breaks=changes] td").map((one) => one.text());
  expect(cells).toEqual(["Relief has another default", "1", "2", "Changes appearance"]);
  await shown.get('[aria-label="What is new"]').setValue("Calmer");
  await shown.get("form").trigger("submit");
  expect(shown.emitted("publish")).toEqual([["Calmer"]]);
});
