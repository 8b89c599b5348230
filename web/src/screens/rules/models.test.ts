import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import { button, giveNumber, leave, mounted, serve, standInForBrowser, until } from "@/tests/mounting";

import ModelsPart from "./ModelsPart.vue";

let page: ReturnType<typeof mounted>;
beforeEach(standInForBrowser);
afterEach(() => leave(page));

const RULE = {
  name: "house",
  title: "Models",
  number: 1,
  own: true,
  origin: null,
  document: {
    format: "fair-texel/models",
    version: 1,
    title: "Models",
    density: { texels: 512, factor: 2 },
    gap: { texels: 8, side: 1024 },
  },
};

describe("the rules for models", () => {
  it("are changed in plain fields and saved; what is emptied is not checked", async () => {
    const calls = serve({
      "GET /api/projects/ferry/rules/models": [RULE],
      "PUT /api/projects/ferry/rules/models/house": { ...RULE, number: 2 },
    });
    page = mounted(ModelsPart, { slug: "ferry", project: {}, mayRule: true, mayPrepare: true });
    await until(() => expect(page.text()).toContain("Gap between UV islands on a map of 1024"));
    await giveNumber(page, "Texel density, texels a metre", 256);
    await giveNumber(page, "Materials of one model, at most", 4);
    await giveNumber(page, "Gap between UV islands on a map of 1024, at least", null);
    await button(page, "Save as version 2").trigger("click");
    await flushPromises();
    const sent = calls.find((one) => one.method === "PUT")?.body as Record<string, unknown>;
    expect(sent).toMatchObject({ density: { texels: 256, factor: 2 }, materials: 4 });
    expect(sent).not.toHaveProperty("gap");
  });

  it("are read only without the right to set rules", async () => {
    serve({ "GET /api/projects/ferry/rules/models": [RULE] });
    page = mounted(ModelsPart, { slug: "ferry", project: {}, mayRule: false, mayPrepare: true });
    await until(() => expect(page.findAll("input").length).toBeGreaterThan(2));
    expect(page.findAll("input").every((one) => one.attributes("disabled") !== undefined)).toBe(true);
  });
});
