import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import type { Listed, Scan } from "@/api/scans";
import { button, leave, mounted, serve, standInForBrowser } from "@/tests/mounting";

import LibraryScreen from "./LibraryScreen.vue";
import ScanNotice from "./ScanNotice.vue";
import ScanTable from "./ScanTable.vue";

let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
beforeEach(standInForBrowser);
afterEach(() => leave(page));

const fit = (pixels: number, more = {}) => ({
  pixels,
  density: pixels / 2,
  per_pixel: pixels / 200,
  sharp_from: 400 / pixels,
  memory: pixels * pixels,
  wasted: 0,
  is_enough: false,
  ...more,
});
const listed = (more: Partial<Listed> = {}): Listed => ({
  id: "cobble",
  title: "Cobble",
  tags: ["stone"],
  metres: 2,
  revision: 1,
  licence: "CC0-1.0",
  credit: "",
  problem: "",
  refused: false,
  fits: [fit(128), fit(256, { is_enough: true }), fit(512, { wasted: 0.75 })],
  taken: null,
  ...more,
});
const scan = (more: Partial<Scan> = {}): Scan => ({
  id: 7,
  library: "Tin",
  surface: "cobble",
  title: "Cobble",
  pixels: 256,
  revision: 1,
  newest: 1,
  update_available: false,
  state: "done",
  job: 1,
  message: "",
  intake: 4,
  sets: [{ id: 5, name: "cobble" }],
  ...more,
});
function answers(surfaces: Listed[], scans: Scan[] = [], account: string | null = "Tin Co") {
  calls = serve({
    "GET /api/projects/ferry": { slug: "ferry", right: "prepare" },
    "GET /api/projects/ferry/scans/libraries": [{ name: "Tin", account }],
    "GET /api/projects/ferry/scans/libraries/Tin/surfaces": {
      title: "Tin",
      account: "Tin Co",
      surfaces,
      standard: 256,
      next: null,
    },
    "GET /api/projects/ferry/scans": scans,
    "PUT /api/projects/ferry/scans/libraries/Tin/account": { name: "Tin", account: "Tin Co" },
    "POST /api/projects/ferry/scans": scan(),
    "POST /api/projects/ferry/scans/7/resume": scan(),
    "POST /api/projects/ferry/scans/7/update": scan(),
    "POST /api/projects/ferry/scans/look": { job: 3 },
  });
}
const sent = (method: string, ending: string) =>
  calls.filter((one) => one.method === method && one.path.endsWith(ending)).map((one) => one.body);

describe("a scan library", () => {
  async function shown(surfaces: Listed[], scans: Scan[] = [], account: string | null = "Tin Co") {
    answers(surfaces, scans, account);
    page = mounted(LibraryScreen, { slug: "ferry" });
    await flushPromises();
  }

  it("asks for a key first", async () => {
    await shown([], [], null);
    await page.find("input").setValue("secret");
    await page.find("form").trigger("submit");
    await flushPromises();
    expect(sent("PUT", "/account")).toEqual([{ key: "secret" }]);
  });

  it("says of each surface which resolution is enough, and takes that in", async () => {
    await shown([listed()]);
    expect(page.find("[data-surface=cobble]").text()).toContain("256 px is enough");
    await page.find("[data-surface=cobble]").trigger("click");
    expect(page.text()).toContain("wastes 75 %");
    expect(page.text()).toContain("The target wants 256 texels a metre.");
    await button(page, "Take in 256 px").trigger("click");
    await flushPromises();
    expect(sent("POST", "/scans")).toEqual([{ library: "Tin", surface: "cobble", pixels: 256 }]);
  });

  it("does not take what the project's rules forbid", async () => {
    await shown([listed({ refused: true, problem: "Bought for a poster." })]);
    expect(page.text()).toContain("Not for this project");
    await page.find("[data-surface=cobble]").trigger("click");
    expect(page.text()).toContain("Bought for a poster.");
    expect(button(page, "Take in 256 px").attributes("disabled")).toBeDefined();
  });

  it("changes the resolution of what is in already", async () => {
    await shown([listed({ taken: 7 })], [scan({ pixels: 128 })]);
    await page.find("[data-surface=cobble]").trigger("click");
    await flushPromises();
    await button(page, "Change to 256 px").trigger("click");
    await flushPromises();
    expect(sent("POST", "/update")).toEqual([{ pixels: 256 }]);
  });

  it("keeps how the camera stands", async () => {
    localStorage.setItem("fair-texel-scan-camera", JSON.stringify({ distance: 9 }));
    await shown([listed()]);
    const asked = calls.find((one) => one.path.endsWith("/surfaces"))!;
    expect(new URLSearchParams(asked.query).get("distance")).toBe("9");
  });
});

describe("what was taken in from libraries", () => {
  async function shown(rows: Scan[]) {
    answers([], rows);
    page = mounted(ScanTable, { slug: "ferry", mayPrepare: true });
    await flushPromises();
  }

  it.each([
    [scan(), "newest"],
    [scan({ state: "running" }), "being fetched"],
    [scan({ state: "failed", message: "Tin breaks off" }), "Tin breaks off"],
    [scan({ update_available: true, newest: 2 }), "revision 2 is there"],
  ])("says how it stands", async (one, words) => {
    await shown([one]);
    expect(page.find("[data-scan=cobble]").text()).toContain(words);
  });

  it("is gone on with, updated, and looked at again", async () => {
    await shown([scan({ state: "failed", message: "Tin breaks off" })]);
    await button(page, "Go on").trigger("click");
    expect(sent("POST", "/resume")).toHaveLength(1);
    await button(page, "Look for newer").trigger("click");
    expect(sent("POST", "/look")).toHaveLength(1);
  });
});

describe("at a set", () => {
  it("a newer revision is told and taken", async () => {
    answers([], [scan({ update_available: true, newest: 2 })]);
    page = mounted(ScanNotice, { slug: "ferry", set: 5, mayPrepare: true });
    await flushPromises();
    expect(page.text()).toContain("Tin has revision 2 of Cobble; this is revision 1.");
    await button(page, "Update").trigger("click");
    await flushPromises();
    expect(sent("POST", "/update")).toEqual([{ pixels: null }]);
  });
});
