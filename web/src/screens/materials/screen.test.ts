import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, type MockInstance, vi } from "vitest";

import { forgetChanges } from "@/api/conflicts";
import type { Cast, CastRow, Sheet, SheetParameter, SheetRow } from "@/api/materials";
import { router } from "@/app/router";
import SheetSurface from "@/preview/SheetSurface.vue";
import { aSet, button, choose, leave, mounted, ROLES, serve, standInForBrowser } from "@/tests/mounting";

import CastView from "./CastView.vue";
import MasterView from "./MasterView.vue";
import MaterialsScreen from "./MaterialsScreen.vue";
import ParameterControl from "./ParameterControl.vue";

let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
let pushed: MockInstance<typeof router.push>;
beforeEach(() => {
  standInForBrowser();
  // Nothing draws here: the surface is tried in a real browser.
  vi.spyOn(console, "error").mockImplementation(() => {});
  vi.spyOn(HTMLCanvasElement.prototype, "getContext").mockReturnValue(null);
});
afterEach(() => {
  forgetChanges();
  leave(page);
});

const parameter = (name: string, more: Partial<SheetParameter> = {}): SheetParameter => ({
  name,
  kind: "number",
  title: name,
  default: [0.5],
  group: "",
  help: "",
  low: 0,
  high: 1,
  soft_low: null,
  soft_high: null,
  step: null,
  unit: "",
  options: [],
  ...more,
});
const row = (name: string, layer?: string): SheetRow =>
  ({
    name,
    label: name,
    is_input: true,
    text: "wetness",
    chain: { start: "wetness", steps: [] },
    reads: ["wetness"],
    size: 1,
    meaning: "data",
    origin: layer ? { layer, row: name } : null,
  }) as unknown as SheetRow;
const sheet = (more: Partial<Sheet> = {}): Sheet => ({
  name: "solid",
  title: "Solid",
  help: "",
  slots: [],
  parameters: [parameter("wetness"), parameter("grain")],
  rows: [row("roughness")],
  layered: false,
  moves: false,
  functions: [],
  opacity_mode: "opaque",
  cut_off: 0.5,
  remarks: [],
  cost: { reads: 3, samplers: 2, arithmetic: 14, variants: 1 },
  shader: null,
  ...more,
});
const rows: CastRow[] = [
  { id: 3, name: "Deck", master: "solid", parent: null, changes: 1, worst: null },
  { id: 4, name: "Pier", master: "solid", parent: null, changes: 0, worst: null },
];
const cast = (more: Partial<Cast> = {}): Cast =>
  ({
    id: 3,
    name: "Deck",
    master: "solid",
    number: "1.0.0",
    by: "ada",
    created: "2026-11-20T10:00:00Z",
    revision: 1,
    sheet: sheet(),
    values: { wetness: [0.8], grain: [0.5] },
    changed: ["wetness"],
    inherited: [],
    changes: { wetness: 0.8 },
    slots: {},
    fills: [],
    remarks: [],
    memory: 3 * 2 ** 20,
    parent: null,
    ...more,
  }) as unknown as Cast;
const READ = { sheet: sheet(), problem: null, text: "" };
const master = (more: Record<string, unknown> = {}) => ({
  name: "solid",
  title: "Solid",
  revision: 1,
  document: {
    format: "fair-texel/master",
    version: 1,
    name: "solid",
    title: "Solid",
    inputs: { roughness: "wetness" },
  },
  draft: false,
  newest: "1.0.0",
  casts: 2,
  projects: 1,
  users: [],
  versions: [],
  may_write: true,
  keepers: [],
  ...more,
});
const ANSWERS = {
  "GET /api/projects/ferry": { slug: "ferry", name: "Ferry", target: "sheltered", right: "rules" },
  "GET /api/projects/ferry/sets": {
    roles: ROLES,
    sets: [aSet([], [], { id: 1, name: "deck" })],
    tiled: [],
    undecided: [],
    undo: null,
    redo: null,
  },
  "GET /api/projects/ferry/materials": { masters: [], casts: rows },
  "GET /api/projects/ferry/materials/3": cast(),
  "GET /api/projects/ferry/materials/4": cast({ id: 4, name: "Pier", changed: [] }),
  "GET /api/masters": [],
  "GET /api/masters/solid": master(),
  "POST /api/masters/read": READ,
  "GET /api/masters/catalogue": { operations: [], inputs: [] },
  "GET /api/masters/symptoms": [],
  "GET /api/masters/ready": [
    {
      name: "solid-packed",
      title: "Solid, packed maps",
      help: "",
      cost: { reads: 3, samplers: 3, arithmetic: 2, variants: 1 },
    },
  ],
};
const sent = (method: string, ending: string) =>
  calls.filter((one) => one.method === method && one.path.endsWith(ending)).map((one) => one.body);

describe("the screen of materials", () => {
  async function shown(path = "/materials/ferry", answers: Record<string, unknown> = {}) {
    calls = serve({ ...ANSWERS, ...answers });
    page = mounted(MaterialsScreen, { slug: "ferry" }, path);
    await page.vm.$router.isReady();
    pushed = vi.spyOn(page.vm.$router, "push").mockResolvedValue(undefined);
    await flushPromises();
  }
  const went = () => pushed.mock.calls.map(([to]) => (to as { params: Record<string, unknown> }).params);

  it("opens the first cast, and counts what there is", async () => {
    await shown();
    expect(page.get("section[aria-label='Cast'], [role=region][aria-label='Cast'] h2").text()).toBe("Deck");
    expect(page.text()).toContain("2 casts");
  });

  it("opens the library where there is no cast yet", async () => {
    await shown("/materials/ferry", { "GET /api/projects/ferry/materials": { masters: [], casts: [] } });
    expect(page.findComponent({ name: "LibraryView" }).exists()).toBe(true);
  });

  it("goes on to the next cast and to the library by keys", async () => {
    await shown("/materials/ferry/cast/3");
    for (const key of ["j", "k", "y"])
      window.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
    await flushPromises();
    expect(went().map((one) => [one.kind, one.key])).toEqual([
      ["cast", 4],
      ["cast", 4],
      ["library", ""],
    ]);
  });

  it("begins a master under a title, and opens it", async () => {
    await shown("/materials/ferry/cast/3", {
      "POST /api/masters/begin": { name: "wet-wood", title: "Wet wood" },
    });
    await button(page, "New master").trigger("click");
    await flushPromises();
    const field = document.querySelector<HTMLInputElement>("[role=dialog] input[maxlength]")!;
    field.value = "Wet wood";
    field.dispatchEvent(new Event("input"));
    await flushPromises();
    document.querySelector("[role=dialog] form")!.dispatchEvent(new Event("submit", { cancelable: true }));
    await flushPromises();
    expect(sent("POST", "/api/masters/begin")).toEqual([{ title: "Wet wood", ready: "solid-packed" }]);
    expect(went().at(-1)).toMatchObject({ kind: "master", key: "wet-wood" });
  });

  it("offers nothing that changes to people who may only look", async () => {
    const project = { slug: "ferry", name: "Ferry", target: "sheltered", right: "look" };
    await shown("/materials/ferry/cast/3", { "GET /api/projects/ferry": project });
    for (const word of ["New master", "Delete", "Paste changes"]) expect(page.text()).not.toContain(word);
  });
});

describe("a cast", () => {
  async function shown(answers: Record<string, unknown> = {}, more = {}) {
    calls = serve({ ...ANSWERS, "PATCH /api/projects/ferry/materials/3": cast(), ...answers });
    page = mounted(CastView, { slug: "ferry", id: 3, casts: rows, mayChange: true, mayWrite: true, ...more });
    await flushPromises();
  }
  const control = (name: string) =>
    page
      .findAllComponents(ParameterControl)
      .find((one) => (one.props("parameter") as SheetParameter).name === name)!;

  it("says from which master and version it is made, and what its maps take", async () => {
    await shown();
    expect(page.get("header").text()).toContain("Solid");
    expect(page.get("header").text()).toContain("1.0.0");
    expect(page.text()).toContain("1 of 2 changed");
    expect(page.text()).toContain("3.0 MiB");
  });

  it("shows a value that is moved at once, and keeps it when it is let go", async () => {
    await shown();
    control("grain").vm.$emit("move", [0.75]);
    await flushPromises();
    expect((page.findComponent(SheetSurface).props("values") as Record<string, number[]>).grain).toEqual([
      0.75,
    ]);
    control("grain").vm.$emit("keep", [0.75]);
    await flushPromises();
    expect(sent("PATCH", "/materials/3")).toMatchObject([{ changes: { grain: 0.75 }, slots: {} }]);
  });

  it("gives a parameter back to its master", async () => {
    await shown();
    control("wetness").vm.$emit("back");
    await flushPromises();
    expect(sent("PATCH", "/materials/3")).toMatchObject([{ changes: { wetness: null } }]);
  });

  it("is filled from one set, for all layers or one", async () => {
    const layered = cast({
      sheet: sheet({ layered: true, rows: [row("roughness", "base"), row("height", "mud")] }),
    });
    await shown({
      "GET /api/projects/ferry/materials/3": layered,
      "POST /api/projects/ferry/materials/3/fill": layered,
    });
    expect(page.text()).not.toContain("Stack under another cast");
    await choose(page, "Layer to fill", "mud");
    await choose(page, "Fill slots from a set", "deck");
    expect(sent("POST", "/materials/3/fill")).toEqual([{ set: 1, layer: "mud" }]);
  });

  it("is laid under another one as a new master", async () => {
    await shown({ "POST /api/projects/ferry/materials/stack": { id: 9, master: "pier-over-deck" } });
    await choose(page, "Stack under another cast", "Pier");
    expect(sent("POST", "/materials/stack")).toMatchObject([{ casts: [3, 4] }]);
    expect(page.emitted("made")).toEqual([["pier-over-deck"]]);
  });

  it("is gone once it is deleted, and stays where that is refused", async () => {
    await shown({ "DELETE /api/projects/ferry/materials/3": {} });
    await button(page, "Delete").trigger("click");
    await flushPromises();
    expect(page.emitted("gone")).toHaveLength(1);
    leave(page);
    standInForBrowser();
    await shown();
    await button(page, "Delete").trigger("click");
    await flushPromises();
    expect(page.emitted("gone")).toBeUndefined();
  });
});

describe("a master", () => {
  async function shown(answers: Record<string, unknown> = {}, more = {}) {
    calls = serve({ ...ANSWERS, ...answers });
    page = mounted(MasterView, { slug: "ferry", name: "solid", casts: rows, mayChange: true, ...more });
    await flushPromises();
  }

  it("tells its cost, and is shown with the maps of its first cast", async () => {
    await shown();
    expect(page.get("[data-test=cost]").text()).toContain("14");
    expect(calls.some((one) => one.path.endsWith("/materials/3"))).toBe(true);
    await choose(page, "Cast whose maps are shown", "Pier");
    expect(calls.some((one) => one.path.endsWith("/materials/4"))).toBe(true);
  });

  it("tells remarks of the whole sheet above its rows", async () => {
    const remarks = [
      { check: "unused_parameter", severity: "warning", message: "grain is not used.", row: null },
    ];
    const document = { ...master().document, help: "another document, which is read anew" };
    await shown({
      "GET /api/masters/solid": master({ document }),
      "POST /api/masters/read": { ...READ, sheet: sheet({ remarks: remarks as never }) },
    });
    expect(page.get("[data-remark=unused_parameter]").text()).toContain("grain is not used.");
  });

  it("is read only for people who do not keep it, who may make casts of it all the same", async () => {
    await shown({ "GET /api/masters/solid": master({ may_write: false }) });
    expect(page.findComponent({ name: "AddToSheet" }).exists()).toBe(false);
    await button(page, "New cast").trigger("click");
    expect(page.emitted("derive")).toEqual([["Solid"]]);
  });
});
