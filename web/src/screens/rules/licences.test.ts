import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import { aMap, aSet, button, choose, giveText, mounted, ROLES, serve } from "@/tests/mounting";

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
const setList = (sets: unknown[]) => ({
  roles: ROLES,
  sets,
  tiled: [],
  undecided: [],
  undo: null,
  redo: null,
});
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
    const told = new Map(
      shown.findAll("[data-group]").map((one) => [one.attributes("data-group"), one.get(".soft").text()]),
    );
    expect(Object.fromEntries(told)).toEqual({
      none: "1 set, licence missing",
      "cc0-1.0": "2 sets, accepted",
      "CC-BY-4.0": "2 sets, attribution missing in 1",
      "LicenseRef-loan": "1 set, refused",
      MIT: "1 set, refused: not listed in the rules",
    });
  });

  it("are added to the rules by a click, and said anew of all that are chosen", async () => {
    const calls = serve({
      "GET /api/projects/ferry/sets": setList([set(6, "MIT"), set(7, "MIT")]),
      "GET /api/projects/ferry/rules/licences": [rule(1)],
      "PUT /api/projects/ferry/sets/licence": [],
    });
    const shown = groups(set(6, "MIT"), set(7, "MIT"));
    await button(shown, "Accept").trigger("click");
    await button(shown, "Refuse").trigger("click");
    expect(shown.emitted("name")).toEqual([
      ["MIT", "free"],
      ["MIT", "refused"],
    ]);
    await button(shown, "Select all").trigger("click");
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

  it("are a proposal until they are saved", async () => {
    const { calls, shown } = await part(0);
    expect(shown.text()).toContain("A proposal");
    await giveText(shown, "Add a licence", "MIT");
    await choose(shown, "Sets under CC0-1.0 are", "Refused");
    await giveText(shown, "Reason for LicenseRef-loan", "");
    await button(shown, "Remove CC-BY-4.0").trigger("click");
    await button(shown, "Save as version 1").trigger("click");
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
    await giveText(shown, "Licence 1", "cc-by-4.0");
    expect(shown.get('[role="alert"]').text()).toContain("is listed twice");
    const { shown: looked } = await part(1, false);
    expect(looked.get('[aria-label="Licence 1"]').attributes("disabled")).toBeDefined();
    expect(looked.find('[aria-label="Add a licence"]').exists()).toBe(false);
  });
});
