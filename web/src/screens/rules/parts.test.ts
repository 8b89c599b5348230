import { flushPromises } from "@vue/test-utils";
import MultiSelect from "primevue/multiselect";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import { forgetChanges } from "@/api/conflicts";
import type { Budget } from "@/api/rules";
import {
  aMap,
  aSet,
  button,
  choose,
  giveNumber,
  leave,
  mounted,
  ROLES,
  serve,
  standInForBrowser,
} from "@/tests/mounting";

import BudgetPart from "./BudgetPart.vue";
import FormatsPart from "./FormatsPart.vue";
import LayoutsPart from "./LayoutsPart.vue";

/** What a folder of tests in a browser has: a project, the right to set its rules, and answers by address. */
const PROJECT = { slug: "ferry", name: "Ferry", target: "sheltered", right: "rules" };
let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
beforeEach(standInForBrowser);
afterEach(() => {
  forgetChanges();
  leave(page);
});
const rights = (mayRule = true) => ({ slug: "ferry", project: PROJECT, mayRule, mayPrepare: mayRule });
const rule = (kind: string, name: string, document: unknown, more = {}) => ({
  kind,
  name,
  title: name,
  number: 2,
  by: "ada",
  created: "2026-11-20T10:00:00Z",
  origin: null,
  document,
  ...more,
});
const sent = (method: string, ending: string) =>
  calls.filter((one) => one.method === method && one.path.endsWith(ending)).map((one) => one.body);

describe("allowed formats and limits", () => {
  const FORMATS = {
    format: "fair-texel/formats",
    version: 1,
    name: "usual",
    allowed: { colour: ["bc7"], mask: ["bc4"] },
    limits: { colour: 2, normal: 3, mask: 0.02, coverage: 0.02 },
    sheets: { reads: 8, samplers: 6 },
  };
  async function shown(mayRule = true) {
    calls = serve({
      "GET /api/projects/ferry/rules/formats": [rule("formats", "usual", FORMATS)],
      "GET /api/catalogue": {
        sorts: [
          { sort: "colour", title: "Colour" },
          { sort: "mask", title: "Masks" },
        ],
        formats: [
          { key: "bc7", label: "BC7", bits_per_texel: 8, sorts: ["colour"], family: "BC" },
          { key: "bc1", label: "BC1", bits_per_texel: 4, sorts: ["colour"], family: "BC" },
          { key: "bc4", label: "BC4", bits_per_texel: 4, sorts: ["mask"], family: "BC" },
        ],
      },
      "PUT /api/projects/ferry/rules/formats/usual": (body: unknown) =>
        rule("formats", "usual", body, { number: 3 }),
    });
    page = mounted(FormatsPart, rights(mayRule));
    await flushPromises();
  }

  it("offer for each kind of map the formats that can hold it", async () => {
    await shown();
    const lists = page.findAllComponents(MultiSelect);
    const offered = lists.map((one) =>
      (one.props("options") as { options: { value: string }[] }[]).flatMap((group) =>
        group.options.map((each) => each.value),
      ),
    );
    expect(offered).toEqual([["bc1", "bc7"], ["bc4"]]);
  });

  it("are saved as the next version once something is changed", async () => {
    await shown();
    expect(page.text()).not.toContain("Save as version");
    page.findAllComponents(MultiSelect)[0]!.vm.$emit("update:modelValue", ["bc7", "bc1"]);
    await giveNumber(page, "Colour difference", 1.5);
    await button(page, "Save as version 3").trigger("click");
    await flushPromises();
    const [body] = sent("PUT", "/rules/formats/usual") as [typeof FORMATS];
    expect(body.allowed).toEqual({ colour: ["bc7", "bc1"], mask: ["bc4"] });
    expect(body.limits).toEqual({ ...FORMATS.limits, colour: 1.5 });
  });

  it("take a limit away when its field is emptied, and put it back when discarded", async () => {
    await shown();
    await giveNumber(page, "Texture reads", null);
    await button(page, "Discard").trigger("click");
    expect(page.text()).not.toContain("Not saved");
    await giveNumber(page, "Texture reads", null);
    await button(page, "Save as version 3").trigger("click");
    await flushPromises();
    const [body] = sent("PUT", "/rules/formats/usual") as [typeof FORMATS];
    expect(body.sheets).toEqual({ samplers: 6 });
  });

  it("are read only for people who may not set rules", async () => {
    await shown(false);
    expect(page.findAllComponents(MultiSelect).every((one) => one.props("disabled") as boolean)).toBe(true);
    expect(page.findAll("input.p-inputnumber-input").every((one) => "disabled" in one.attributes())).toBe(
      true,
    );
  });
});

describe("the budget", () => {
  const MIB = 1 << 20;
  const file = (path: string, output: string, memory: number, roles: Record<string, number>) => ({
    path,
    output,
    memory,
    roles,
    width: 1024,
    height: 1024,
    format: "bc7",
    advice: null,
    halved: memory / 4,
    error: null,
  });
  const budget = (more: Partial<Budget> = {}): Budget =>
    ({
      target: "sheltered",
      title: "Sheltered",
      memory: 6 * MIB,
      files: 3,
      measured: 3,
      budget: { memory_mib: 4, set_mib: 3, density: 512 },
      problems: [],
      shrink: [{ path: "deck/deck_bc.ktx2", spared: 3 * MIB, error: { kind: "colour", delta_e_99: 1.25 } }],
      shrunk: 3 * MIB,
      sets: [
        {
          id: 1,
          name: "deck",
          memory: 5 * MIB,
          metres: 2,
          density: 256,
          files: [
            file("deck/deck_bc.ktx2", "colour", 4 * MIB, { base_color: 4 * MIB }),
            file("deck/deck_orm.ktx2", "packed", MIB, { roughness: MIB / 2, metallic: MIB / 2 }),
          ],
        },
        {
          id: 2,
          name: "pier",
          memory: MIB,
          metres: null,
          density: null,
          files: [file("pier/pier_bc.ktx2", "colour", MIB, { base_color: MIB })],
        },
      ],
      ...more,
    }) as unknown as Budget;
  async function shown(told = budget(), mayRule = true) {
    calls = serve({
      "GET /api/projects/ferry/targets": [
        { name: "sheltered", title: "Sheltered" },
        { name: "open", title: "Open" },
      ],
      "GET /api/projects/ferry/budget": told,
      "GET /api/projects/ferry/jobs": [],
      "POST /api/projects/ferry/budget/measure": { job: 1 },
      "PUT /api/projects/ferry/sets/2/metres": null,
      "GET /api/projects/ferry/budget/targets": [
        { target: "sheltered", title: "Sheltered", memory: 6 * MIB, memory_mib: 4, problems: [] },
        { target: "open", title: "Open", memory: 9 * MIB, memory_mib: null, problems: ["deck"] },
      ],
    });
    page = mounted(BudgetPart, rights(mayRule));
    await flushPromises();
  }
  const groups = () => page.findAll("[data-group]").map((one) => one.attributes("data-group"));

  it("tells how much is over, and what to shrink first", async () => {
    await shown();
    expect(page.get("[data-test=total]").text()).toContain("2.00 MiB over");
    expect(page.get("aside").text()).toContain("deck_bc.ktx2");
    leave(page);
    standInForBrowser();
    await shown(budget({ memory: 3 * MIB, shrink: [] }));
    expect(page.get("[data-test=total]").text()).toContain("1.00 MiB left");
    expect(page.get("aside").text()).toContain("Within the budget");
  });

  it("is told by set, by role with the share of packed files, and by output", async () => {
    await shown();
    expect(groups()).toEqual(["deck", "pier"]);
    await button(page, "Roles").trigger("click");
    expect(groups()).toEqual(["base_color", "roughness", "metallic"]);
    await button(page, "Outputs").trigger("click");
    expect(groups()).toEqual(["colour", "packed"]);
  });

  it("opens one set into its files, and closes it again", async () => {
    await shown();
    await button(page, "deck").trigger("click");
    expect(groups()).toEqual(["deck"]);
    expect(page.text()).toContain("deck_orm.ktx2");
    await button(page, "Show all").trigger("click");
    expect(groups()).toEqual(["deck", "pier"]);
  });

  it("tells texel density beside the standard, once somebody says how large a set is", async () => {
    await shown();
    expect(page.get('[data-group="deck"]').text()).toContain("256 texels/m, 50 % of the standard");
    await giveNumber(page, "Metres that pier covers", 4);
    await flushPromises();
    expect(calls.some((one) => one.method !== "GET" && one.path.endsWith("/sets/2/metres"))).toBe(true);
  });

  it("goes from the list of targets into one of them", async () => {
    await shown();
    await button(page, "Targets").trigger("click");
    await flushPromises();
    expect(page.get("ol").text()).toContain("1 set left out");
    await button(page.get("ol") as never, "Open").trigger("click");
    await flushPromises();
    expect(groups()).toEqual(["deck", "pier"]);
  });

  it("measures what was not measured, for people who may prepare", async () => {
    await shown(budget({ measured: 1 }));
    await button(page, "Measure 2 files").trigger("click");
    await flushPromises();
    expect(calls.some((one) => one.method === "POST" && one.path.includes("measure"))).toBe(true);
  });
});

describe("channel layouts", () => {
  const LAYOUT = {
    format: "fair-texel/layout",
    version: 1,
    name: "occlusion-roughness-metallic",
    channels: { r: { role: "occlusion", missing: 1 }, g: { role: "roughness" }, b: { role: "metallic" } },
  };
  const deck = aSet([aMap("roughness", { id: 2 })]);
  async function shown(mayRule = true) {
    calls = serve({
      "GET /api/projects/ferry/rules/layout": [
        rule("layout", "gloss-in-alpha", {
          ...LAYOUT,
          name: "gloss-in-alpha",
          channels: { a: { role: "glossiness" } },
        }),
        rule("layout", LAYOUT.name, LAYOUT),
      ],
      "GET /api/projects/ferry/sets": {
        roles: ROLES,
        sets: [deck],
        tiled: [],
        undecided: [],
        undo: null,
        redo: null,
      },
      "GET /api/projects/ferry/sets/1": deck,
      "PUT /api/projects/ferry/rules/layout/occlusion-roughness-metallic": (body: unknown) =>
        rule("layout", LAYOUT.name, body, { number: 3 }),
    });
    page = mounted(LayoutsPart, rights(mayRule));
    await flushPromises();
  }

  it("begin with the one that most engines read, and spell each out", async () => {
    await shown();
    expect(page.get("section.editor").attributes("aria-label")).toBe(LAYOUT.name);
    expect(page.text()).toContain("R occlusion, G roughness, B metallic");
    expect(page.text()).toContain("A glossiness");
  });

  it("are changed channel by channel and saved whole", async () => {
    await shown();
    await choose(page, "Source of Blue", "A constant value");
    await button(page, "Save as version 3").trigger("click");
    await flushPromises();
    const [body] = sent("PUT", LAYOUT.name) as [typeof LAYOUT];
    expect(body.channels).toEqual({ ...LAYOUT.channels, b: { missing: 0 } });
  });

  it("give no way to change them without the right", async () => {
    await shown(false);
    const lists = page.findAll('[data-lane] [role="combobox"]');
    expect(lists.length).toBeGreaterThan(2);
    expect(lists.every((one) => one.attributes("aria-disabled") === "true")).toBe(true);
  });
});
