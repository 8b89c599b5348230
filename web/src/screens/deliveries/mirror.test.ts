import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import type { Mirrored } from "@/api/destinations";
import { aMap, aSet, button, leave, mounted, serve, standInForBrowser, until } from "@/tests/mounting";

import MirrorView from "./MirrorView.vue";
import PairLook from "@/parts/PairLook.vue";

let page: ReturnType<typeof mounted>;
beforeEach(standInForBrowser);
afterEach(() => leave(page));

const difference = (misread: string): Mirrored["differences"][number] => ({
  kind: "space",
  severity: "error",
  message: "Data is decoded as sRGB colour.",
  said: { key: "mirror_data_as_srgb", values: {} },
  misread,
});
const file = (path: string, more: Partial<Mirrored> = {}): Mirrored => ({
  path,
  set: "deck",
  meant: { channels: { b: "metallic", g: "roughness", r: "occlusion" }, space: "linear", green: null },
  taken: {
    channels: {},
    space: "srgb",
    by: "unknown",
    green: null,
    format: "",
    width: 64,
    height: 64,
  },
  differences: [],
  ...more,
});
async function shown(
  files: Mirrored[],
  of: { delivery: number } | { destination: number } = { delivery: 4 },
) {
  const told = {
    mirror: "ours",
    title: "Our engine",
    errors: 1,
    warnings: 0,
    files,
    materials: [],
    broken: [],
  };
  serve({
    "GET /api/projects/ferry/deliveries/4/mirror": told,
    "GET /api/projects/ferry/destinations/2/mirror": told,
  });
  const sets = [aSet([aMap("roughness")], [], { id: 1, name: "deck" })];
  page = mounted(MirrorView, { slug: "ferry", of, name: "#4", sets });
  await flushPromises();
}
const one = (path: string) => page.get(`[data-file="${path}"]`);

describe("the mirror", () => {
  it("says what was meant and what is read, channels in their order", async () => {
    await shown([file("deck/deck_orm.png", { differences: [difference("data_as_srgb")] })]);
    expect(one("deck/deck_orm.png").text()).toContain("Meant: R occlusion, G roughness, B metallic; linear");
    expect(one("deck/deck_orm.png").text()).toContain("Read: nothing known; sRGB");
    expect(page.get("[data-test=mirror-summary]").text()).toBe(
      "1 file is read otherwise than meant by: Our engine",
    );
  });

  it("draws what a file is taken for beside what it is", async () => {
    await shown([file("deck/deck_orm.png", { differences: [difference("data_as_srgb")] })]);
    const urls = one("deck/deck_orm.png")
      .findAll("img")
      .map((each) => each.attributes("src"));
    expect(urls).toEqual([
      expect.stringContaining("/deliveries/4/picture"),
      expect.stringContaining("misread=data_as_srgb"),
    ]);
  });

  it("hides what is read as meant until somebody asks", async () => {
    await shown([file("deck/deck_orm.png")]);
    expect(page.text()).toContain("Everything is read as it was meant by: Our engine");
    expect(page.findAll("[data-file]")).toHaveLength(0);
    await page.get("input[type=checkbox]").trigger("change");
    expect(page.findAll("[data-file]")).toHaveLength(1);
  });

  it("offers a surface for what a surface can show, of sets that are there", async () => {
    const wrong = { differences: [difference("data_as_srgb")] };
    await shown([
      file("deck/deck_orm.png", wrong),
      file("gone/gone_orm.png", { ...wrong, set: "gone" }),
      file("deck/deck_mask.png", { differences: [difference("channels_exchanged")] }),
    ]);
    expect(one("deck/deck_orm.png").text()).toContain("See on a surface");
    for (const path of ["gone/gone_orm.png", "deck/deck_mask.png"])
      expect(one(path).text()).not.toContain("See on a surface");
  });

  it("reads what others put at a destination, and goes back to the plan", async () => {
    await shown([file("quay_n.png", { meant: null, differences: [difference("")] })], { destination: 2 });
    expect(one("quay_n.png").text()).toContain("Nothing explains this file");
    expect(one("quay_n.png").get("img").attributes("src")).toContain("/destinations/2/picture");
    await button(page, "Back to the plan").trigger("click");
    expect(page.emitted("done")).toHaveLength(1);
  });
});

describe("two states of a file, large", () => {
  it("take each other's place by a key", async () => {
    page = mounted(PairLook, {
      path: "deck/deck_orm.png",
      before: "/before",
      after: "/after",
      beforeLabel: "Delivered",
      afterLabel: "There now",
    });
    await flushPromises();
    const urls = () => [...document.querySelectorAll("figure img")].map((each) => each.getAttribute("src"));
    expect(urls()).toEqual(["/before", "/after"]);
    for (const wanted of [["/before"], ["/after"]]) {
      window.dispatchEvent(new KeyboardEvent("keydown", { key: "b", bubbles: true }));
      await until(() => expect(urls()).toEqual(wanted));
    }
  });
});
