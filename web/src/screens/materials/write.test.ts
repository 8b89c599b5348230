import { flushPromises } from "@vue/test-utils";
import MultiSelect from "primevue/multiselect";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { CastRow } from "@/api/materials";
import { mounted, serve } from "@/tests/mounting";

import WriteView from "./WriteView.vue";

afterEach(() => vi.unstubAllGlobals());

const castRow = (id: number, name: string, master = "solid"): CastRow => ({
  id,
  name,
  master,
  parent: null,
  changes: 0,
  worst: null,
});

describe("writing casts", () => {
  const exports = [
    {
      id: 9,
      title: "Write Deck as glTF",
      format: "glb",
      state: "done",
      message: "",
      by: "ada",
      created: "2026-11-02T10:00:00Z",
      file: "solid.glb",
      size: 2_400_000,
      lost: ["Height: glTF has no displacement"],
      baked: { Deck: ["base_color"], Hull: [] },
    },
    {
      id: 8,
      title: "Write Hull",
      format: "mtlx",
      state: "failed",
      message: "the set is gone",
      by: "ada",
      created: "2026-11-02T10:00:00Z",
      file: "",
      size: 0,
      lost: [],
      baked: {},
    },
  ];
  const view = async (mayChange: boolean) => {
    const calls = serve({
      "GET /api/projects/ferry/materials/exports": exports,
      "GET /api/catalogue": {
        written_as: [
          { key: "mtlx", title: "MaterialX", help: "" },
          { key: "maps", title: "Maps", help: "" },
        ],
      },
      "GET /api/projects/ferry/rules/layout": [{ name: "orm", title: "Occlusion, roughness, metallic" }],
      "POST /api/projects/ferry/materials/exports": {},
    });
    const casts = [castRow(2, "Deck"), castRow(3, "Hull"), castRow(4, "Leaf", "leaf")];
    const shown = mounted(WriteView, { slug: "ferry", master: "solid", casts, mayChange });
    await flushPromises();
    return { calls, shown };
  };

  it("orders what was chosen, and says of each export what is not in it", async () => {
    const { calls, shown } = await view(true);
    await shown.get('[value="maps"]').setValue(true);
    expect(shown.text()).toContain("Export 2 casts");
    shown.findComponent(MultiSelect).vm.$emit("update:modelValue", ["orm"]);
    await flushPromises();
    await shown.findAll('[type="checkbox"]')[1]!.setValue(false);
    await shown.get("form").trigger("submit");
    await flushPromises();
    expect(calls.find((one) => one.method === "POST")?.body).toEqual({
      casts: [2],
      format: "maps",
      side: 1024,
      bits: 8,
      green: "up",
      layouts: ["orm"],
      vertex: [0, 0, 0, 1],
    });
    const made = shown.get("[data-export='9']");
    expect(made.text()).toContain("solid.glb, 2.4 MB");
    expect(made.text()).toContain("Not in it: Height: glTF has no displacement");
    expect(made.text()).toContain("Deck: base color baked");
    expect(shown.get("[data-export='8']").text()).toContain("the set is gone");
  });

  it("is for who may prepare; what was written can be fetched by all", async () => {
    const { shown } = await view(false);
    expect(shown.find("form").exists()).toBe(false);
    expect(shown.get("a[download]").attributes("href")).toContain("/exports/9/file");
  });
});
