import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import SetLicence from "@/screens/set/SetLicence.vue";
import { aMap, aSet, mounted, ROLES, serve } from "@/tests/mounting";

import LicenceGroups from "./LicenceGroups.vue";
import LicencesPart from "./LicencesPart.vue";

afterEach(() => vi.unstubAllGlobals());

const TERMS = [
  { licence: "CC0-1.0", use: "free" },
  { licence: "CC-BY-4.0", use: "credit" },
  { licence: "LicenseRef-loan", use: "refused", why: "It goes back in May." },
];
const set = (id: number, licence: string, credit = "") =>
  aSet([aMap("base_color", { id, set: id })], [], { id, name: `set ${id}`, licence, credit });
const setList = (sets: unknown[]) => ({ roles: ROLES, sets, undecided: [], undo: null, redo: null });
const rule = (number: number) => ({
  name: "house",
  title: "House",
  number,
  own: number > 0,
  origin: null,
  document: { format: "fair-texel/licences", version: 1, unknown: "warning", terms: TERMS },
});

describe("sets by licence", () => {
  const groups = (...sets: unknown[]) =>
    mounted(LicenceGroups, { slug: "ferry", sets, terms: TERMS, mayChange: true, mayRule: true });

  it("stand together whatever the case, with what the rules say of them", () => {
    serve({});
    const shown = groups(
      set(1, "cc0-1.0"),
      set(2, "CC0-1.0"),
      set(3, "CC-BY-4.0"),
      set(4, "CC-BY-4.0", "Imke"),
      set(5, "LicenseRef-loan"),
      set(6, "MIT"),
      set(7, ""),
    );
    const told = Object.fromEntries(
      shown.findAll("[data-group]").map((one) => [one.attributes("data-group"), one.get(".soft").text()]),
    );
    expect(told).toEqual({
      unknown: "1 set, nobody said",
      "cc0-1.0": "2 sets, taken",
      "CC-BY-4.0": "2 sets, 1 without a name to give",
      "LicenseRef-loan": "1 set, refused",
      MIT: "1 set, not named in the rules, so refused",
    });
  });

  it("are taken into the rules by a click, and said anew of all that are chosen", async () => {
    const calls = serve({
      "GET /api/projects/ferry/sets": setList([set(6, "MIT"), set(7, "MIT")]),
      "GET /api/projects/ferry/rules/licences": [rule(1)],
      "PUT /api/projects/ferry/sets/licence": [],
    });
    const shown = groups(set(6, "MIT"), set(7, "MIT"));
    const [take, refuse, all] = shown.findAll(".link");
    await take!.trigger("click");
    await refuse!.trigger("click");
    expect(shown.emitted("name")).toEqual([
      ["MIT", "free"],
      ["MIT", "refused"],
    ]);
    await all!.trigger("click");
    await flushPromises();
    const form = shown.get("form");
    expect(form.get("input").element.value).toBe("MIT");
    await form.get("input").setValue("CC-BY-4.0");
    await form.findAll("input")[1]!.setValue("Imke");
    await form.trigger("submit");
    await flushPromises();
    expect(calls.find((one) => one.method === "PUT")?.body).toEqual({
      sets: [6, 7],
      licence: "CC-BY-4.0",
      credit: "Imke",
      seen: { 6: 1, 7: 1 },
    });
    expect(shown.find("form").exists()).toBe(false);
  });
});

describe("the licences that a project takes", () => {
  const part = async (number: number, mayRule = true) => {
    const calls = serve({
      "GET /api/projects/ferry/sets": setList([set(1, "MIT")]),
      "GET /api/projects/ferry/rules/licences": [rule(number)],
      "GET /api/projects": [],
      "PUT /api/projects/ferry/rules/licences/house": (document: object) => ({
        ...rule(number + 1),
        document,
      }),
    });
    const shown = mounted(LicencesPart, { slug: "ferry", project: {}, mayRule, mayPrepare: true });
    await flushPromises();
    return { calls, shown };
  };

  it("are an offer until they are kept", async () => {
    const { calls, shown } = await part(0);
    expect(shown.text()).toContain("An offer");
    await shown.get('[aria-label="Another licence"]').setValue("MIT");
    await shown.get('[aria-label="What is under CC0-1.0 is"]').setValue("refused");
    await shown.get('[aria-label="Why, for LicenseRef-loan"]').setValue("");
    await shown.get('[aria-label="Remove CC-BY-4.0"]').trigger("click");
    await shown
      .findAll("button")
      .find((one) => one.text().startsWith("Keep"))!
      .trigger("click");
    await flushPromises();
    expect(calls.find((one) => one.method === "PUT")?.body).toMatchObject({
      terms: [
        { licence: "CC0-1.0", use: "refused" },
        { licence: "LicenseRef-loan", use: "refused" },
        { licence: "MIT", use: "free" },
      ],
    });
  });

  it("cannot stand twice, nor be changed by who may not", async () => {
    const { shown } = await part(1);
    await shown.get('[aria-label="Licence 1"]').setValue("cc-by-4.0");
    expect(shown.get('[role="alert"]').text()).toContain("stands twice");
    const { shown: looked } = await part(1, false);
    expect(looked.get("fieldset").attributes("disabled")).toBeDefined();
  });
});

it("a set tells its licence in a line, which opens for who may change it", async () => {
  serve({ "GET /api/projects/ferry/sets": setList([]), "GET /api/projects/ferry/rules/licences": [rule(1)] });
  const shown = mounted(SetLicence, { slug: "ferry", set: set(1, "CC-BY-4.0", "Imke"), mayChange: true });
  expect(shown.get("button").text()).toBe("LicenceCC-BY-4.0Imke");
  await shown.get("button").trigger("click");
  expect(shown.find("form").exists()).toBe(true);
  const closed = mounted(SetLicence, { slug: "ferry", set: set(1, ""), mayChange: false });
  expect(closed.get("button").attributes("disabled")).toBeDefined();
  expect(closed.text()).toContain("unknown");
});
