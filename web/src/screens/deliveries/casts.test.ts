import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { ref } from "vue";

import type { PlannedFile } from "@/api/types";
import { button, leave, mounted, standInForBrowser } from "@/tests/mounting";

import BesideChoice from "./BesideChoice.vue";
import PlanList from "./PlanList.vue";
import { bySet, formOf, whyInWords } from "./plan";

let page: ReturnType<typeof mounted>;
beforeEach(standInForBrowser);
afterEach(() => page?.unmount());

const file = (more: Partial<PlannedFile>) => ({
  set: "",
  cast: "",
  model: "",
  status: "new",
  path: "a",
  ...more,
});

describe("casts in a delivery", () => {
  it("are chosen one by one, all or none", async () => {
    page = mounted(BesideChoice, {
      title: "Casts to deliver",
      things: [
        { id: 1, name: "Wet deck" },
        { id: 2, name: "Dry deck" },
      ],
      modelValue: [],
    });
    await page.find("input").trigger("change");
    await flushPromises();
    expect(page.emitted("update:modelValue")!.at(-1)).toEqual([[1]]);
    await button(page, "All").trigger("click");
    expect(page.emitted("update:modelValue")!.at(-1)).toEqual([[1, 2]]);
    await button(page, "None").trigger("click");
    expect(page.emitted("update:modelValue")!.at(-1)).toEqual([[]]);
    leave(page);
  });

  it("stand in groups of their own, even where a set is called alike", () => {
    const groups = bySet([
      file({ set: "deck" }),
      file({ cast: "deck", path: "materials/deck.glb" }),
      file({ model: "deck", path: "models/deck.glb" }),
    ] as PlannedFile[]);
    expect(groups.map((one) => [one.key, one.set, one.kind])).toEqual([
      ["deck", "deck", "set"],
      ["cast deck", "deck", "cast"],
      ["model deck", "deck", "model"],
    ]);
  });

  it.each([
    ["materials/deck.glb", "glTF 2.0 material"],
    ["materials/deck.mtlx", "MaterialX material"],
    ["materials/deck.usdz", "OpenUSD material"],
  ])("have files in open formats: %s", (path, words) => {
    expect(formOf(file({ kind: "cast", path }) as PlannedFile)).toBe(words);
  });

  it("say why they changed", () => {
    expect(whyInWords(["master", "parameters"])).toBe("another version of its master, other parameters");
  });
});

describe("the plan's memory", () => {
  const shown = (memory: number, budget: number | null) => {
    const plan = {
      data: ref({ files: [], memory, budget, orphaned: [], problems: [], carried: [] }),
      error: ref(null),
    };
    page = mounted(PlanList, { slug: "ferry", plan, sets: [] });
    return page.find("[data-test=memory]");
  };

  it.each([
    [1 << 20, null, "1.00 MiB of graphics memory", "soft"],
    [1 << 20, 2 << 20, "1.00 MiB of graphics memory; the target allows 2.00 MiB", "soft"],
    [3 << 20, 2 << 20, "3.00 MiB of graphics memory: over the 2.00 MiB that the target allows", "error"],
  ])("of %i bytes against %o", (memory, budget, words, look) => {
    const line = shown(memory, budget);
    expect(line.text()).toBe(words);
    expect(line.classes()).toContain(look);
  });
});
