import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";
import { defineComponent, h } from "vue";

import { useAtlasChanges } from "@/api/atlases";
import { clash, forgetChanges } from "@/api/conflicts";
import { useMaterialChanges } from "@/api/materialChanges";
import { useCast } from "@/api/materials";
import { useSetChanges } from "@/api/setChanges";
import { aMap, aSet, leave, mounted, Newer, serve, until } from "@/tests/mounting";

import ClashDialog from "./ClashDialog.vue";

let page: ReturnType<typeof mounted>;
afterEach(() => {
  forgetChanges();
  leave(page);
});
const inDocument = (selector: string) => document.querySelector<HTMLElement>(selector)!;
/** A page that only runs something with what a screen has. */
function using<T>(use: () => T): T {
  let made: T;
  page = mounted(
    defineComponent(() => {
      made = use();
      return () => h(ClashDialog);
    }),
  );
  return made!;
}

describe("both versions beside each other", () => {
  it("show values by place, colours with what they look like", async () => {
    page = mounted(ClashDialog);
    clash.value = {
      about: "Quay",
      theirs: "2 values",
      mine: "2 values",
      values: [
        { name: "tint", theirs: [1, 0, 0], mine: [0, 0, 1] },
        { name: "worn", theirs: null, mine: ["deck", "roughness"] },
      ],
      decide: vi.fn(),
    };
    await flushPromises();
    const rows = [...inDocument("[data-test=clash] table").querySelectorAll("tbody tr")];
    expect(rows.map((one) => one.textContent)).toEqual(["tint1, 0, 00, 0, 1", "worn–deck, roughness"]);
    const colours = [...rows[0]!.querySelectorAll<HTMLElement>(".colour")];
    expect(colours.map((one) => one.style.background)).toEqual(["#ff0000", "#0000ff"]);
    clash.value = null;
  });

  it("show the map with the steps of each", async () => {
    const seen = aMap("normal", { id: 4, revision: 1, recipe: [] });
    const now = {
      ...seen,
      revision: 2,
      recipe: [{ step: "flip_green", label: "Flip green", off: false, options: {} }],
    };
    serve({
      "PUT /api/projects/ferry/maps/4/recipe": (_: unknown, state: string) =>
        state === "1" ? new Newer(now) : now,
    });
    const changes = using(() => useSetChanges("ferry"));
    void changes.recipe.mutate({ map: 4, recipe: [{ step: "invert" }], label: "Invert", seen });
    await until(() => expect(clash.value).not.toBeNull());
    await flushPromises();
    const shown = [...inDocument("[data-test=clash]").querySelectorAll("img")];
    const steps = shown.map((one) => new URL(one.src, "http://localhost").searchParams.get("recipe"));
    expect(steps).toEqual(['[{"step":"flip_green"}]', '[{"step":"invert"}]']);
  });

  it("show the regions of each over the picture, and theirs stay", async () => {
    const region = (name: string) => ({ name, left: 0, top: 0, width: 0.5, height: 1 });
    const seen = aSet([aMap("base_color")], [], { id: 3, revision: 1, regions: [] });
    const calls = serve({
      "PUT /api/projects/ferry/sets/3/regions": () =>
        new Newer({ ...seen, revision: 2, regions: [region("strip")] }),
    });
    const changes = using(() => useAtlasChanges(() => "ferry"));
    const kept = changes.keep(seen, [region("plank"), region("nail")]);
    await until(() => expect(clash.value).not.toBeNull());
    await flushPromises();
    const names = (side: string) =>
      [...inDocument(`[data-side=${side}]`).querySelectorAll(".region")].map((one) => one.textContent);
    expect([names("theirs"), names("mine")]).toEqual([["strip"], ["plank", "nail"]]);
    clash.value!.decide(false);
    expect(await kept).toBeNull();
    expect(calls.filter((one) => one.method === "PUT")).toHaveLength(1);
  });

  it("show what a cast has and would have", async () => {
    const cast = { id: 5, name: "Quay", revision: 1, values: { wear: 0.2, tint: [1, 1, 1] }, fills: [] };
    serve({
      "GET /api/projects/ferry/materials/5": cast,
      "PATCH /api/projects/ferry/materials/5": () =>
        new Newer({ ...cast, revision: 2, values: { wear: 0.7 } }),
    });
    const changes = using(() => ({ ...useMaterialChanges("ferry"), cast: useCast("ferry", 5) }));
    await until(() => expect(changes.cast.data.value).toBeTruthy());
    void changes.changeCast(5, { changes: { wear: 0.4 } });
    await until(() => expect(clash.value).not.toBeNull());
    expect(clash.value!.values).toEqual([{ name: "wear", theirs: 0.7, mine: 0.4 }]);
  });
});
