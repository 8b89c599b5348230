import { DOMWrapper, flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import { aMap, aSet, button, leave, mounted, serve, standInForBrowser, until } from "@/tests/mounting";

import { between, grid, texelsOf, withMetres, withTexels } from "./regions";
import RegionsPanel from "./RegionsPanel.vue";

const SIDES = { width: 1024, height: 512 };
const plank = { name: "plank", left: 0, top: 0.25, width: 1, height: 0.125 };

describe("regions", () => {
  it("are drawn on whole texels, whichever corner the drag began at", () => {
    const made = between("a", [0.5004, 0.75], [0.25, 0.5], SIDES, false)!;
    expect([made.left, made.top, made.width, made.height]).toEqual([0.25, 0.5, 256 / 1024, 0.25]);
  });
  it("go over the whole width where strips are drawn", () => {
    const made = between("a", [0.4, 0.1], [0.5, 0.2], SIDES, true)!;
    expect([made.left, made.width]).toEqual([0, 1]);
  });
  it("are none where nothing was drawn over", () => {
    expect(between("a", [0.5, 0.5], [0.5, 0.9], SIDES, false)).toBeNull();
  });
  it("are told and set in texels, and stay on the map", () => {
    expect(texelsOf(plank, "top", SIDES)).toBe(128);
    const lower = withTexels(plank, "top", 480, SIDES);
    expect(lower.top + lower.height).toBeLessThanOrEqual(1);
    expect(withTexels(plank, "height", 0, SIDES).height).toBe(1 / 512);
  });
  it("have both metres or none", () => {
    expect(withMetres(plank, 0, 4).metres).toEqual([4, 4]);
    expect(withMetres({ ...plank, metres: [4, 0.5] }, 1, 1).metres).toEqual([4, 1]);
    expect(withMetres({ ...plank, metres: [4, 0.5] }, 0, null).metres).toBeUndefined();
  });
  it("are made as equal cells", () => {
    expect(grid(2, 2, (number) => `cell ${number}`)[3]).toEqual({
      name: "cell 4",
      left: 0.5,
      top: 0.5,
      width: 0.5,
      height: 0.5,
    });
  });
});

describe("the panel of regions", () => {
  let page: ReturnType<typeof mounted>;
  let calls: ReturnType<typeof serve>;
  const body = () => new DOMWrapper(document.body);
  const inDialog = (label: string) => button({ findAll: body().findAll.bind(body()) } as never, label);
  const sent = (method: string) => calls.filter((one) => one.method === method).map((one) => one.body);
  beforeEach(standInForBrowser);
  afterEach(() => leave(page));
  function open(mayChange = true): void {
    const map = aMap("base_color", { width: 1024, height: 512 });
    calls = serve({
      "PUT /api/projects/ferry/sets/1/regions": aSet([map]),
      "POST /api/projects/ferry/sets/1/cut": [aSet([map]), aSet([map])],
    });
    page = mounted(RegionsPanel, {
      slug: "ferry",
      set: aSet([map], [], { regions: [plank] }),
      map,
      mayChange,
    });
  }

  it("keeps what was changed, added and removed", async () => {
    open();
    await button(page, "Edit regions").trigger("click");
    await inDialog("Add a region").trigger("click");
    await inDialog("Remove plank").trigger("click");
    await inDialog("Keep regions").trigger("click");
    await until(() => expect(sent("PUT")).not.toEqual([]));
    expect(sent("PUT")[0]).toEqual({
      regions: [{ name: "Region 2", left: 0, top: 0, width: 0.25, height: 0.25 }],
    });
  });
  it("draws a strip by dragging over the picture", async () => {
    open();
    await button(page, "Edit regions").trigger("click");
    await body().find("input[type=checkbox]").setValue(true);
    const picture = body().find("[data-test=regions-picture]");
    picture.element.getBoundingClientRect = () => ({ left: 0, top: 0, width: 100, height: 100 }) as DOMRect;
    picture.element.setPointerCapture = () => undefined;
    await picture.trigger("pointerdown", { clientX: 10, clientY: 50 });
    await picture.trigger("pointermove", { clientX: 60, clientY: 75 });
    await picture.trigger("pointerup");
    await flushPromises();
    const names = body().findAll<HTMLInputElement>("input[aria-label^='Name of region']");
    expect(names.map((one) => one.element.value)).toEqual(["plank", "Strip 2"]);
  });
  it("cuts the set into sets", async () => {
    open();
    await button(page, "Cut into sets").trigger("click");
    await until(() => expect(sent("POST")).toEqual([{ regions: [] }]));
  });
  it("only shows them to whom may look", async () => {
    open(false);
    expect(page.text()).not.toContain("Cut into sets");
    await button(page, "Edit regions").trigger("click");
    expect(body().text()).not.toContain("Keep regions");
  });
});
