import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import type { Version } from "@/api/watched";
import PairLook from "@/parts/PairLook.vue";
import { button, leave, mounted, serve, standInForBrowser } from "@/tests/mounting";

import OldDeliveries from "./OldDeliveries.vue";
import VersionList from "./VersionList.vue";
import VersionsPanel from "./VersionsPanel.vue";

let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
beforeEach(standInForBrowser);
afterEach(() => leave(page));

const version = (more: Partial<Version> = {}): Version => ({
  id: 4,
  at: "2026-11-28T10:00:00Z",
  by: null,
  origin: "exported again in Paint",
  file: "hull_bc.png",
  before: "a".repeat(64),
  after: "b".repeat(64),
  is_current: true,
  map: 12,
  set: 5,
  set_name: "hull",
  role: "base_color",
  ...more,
});
const OLD = {
  target: "orm",
  title: "Ferry",
  number: 3,
  sets: [{ id: 5, name: "hull" }],
  destinations: ["Art"],
};

function answers(rows: Version[]) {
  calls = serve({
    "GET /api/projects/ferry/versions": rows,
    "GET /api/projects/ferry/deliveries/outdated": [OLD],
    "GET /api/projects/ferry/scans": [],
    "POST /api/projects/ferry/versions/4/bring-back": null,
    "POST /api/projects/ferry/versions/of-map/12": version({ file: "new.png" }),
  });
}

describe("versions of files", () => {
  async function shown(rows: Version[], of: { set?: number; intake?: number } = { set: 5 }) {
    answers(rows);
    page = mounted(VersionList, { slug: "ferry", of, mayChange: true });
    await flushPromises();
  }

  it("show before and after, where from, and by whom", async () => {
    await shown([version(), version({ id: 3, by: "ada", origin: "uploaded", is_current: false })]);
    expect(page.text()).toContain("exported again in Paint,");
    expect(page.text()).toContain("uploaded by ada,");
    expect(page.text()).toContain("A later version is in use.");
    expect(page.findAll("img").map((one) => one.attributes("src"))[0]).toContain("of=before&map=12");
  });

  it("have no picture where nothing readable was before", async () => {
    await shown([version({ before: null })]);
    expect(page.findAll("img")).toHaveLength(1);
    expect(page.text()).not.toContain("Bring the former back");
  });

  it("bring the former back", async () => {
    await shown([version()]);
    await button(page, "Bring the former back").trigger("click");
    expect(calls.filter((one) => one.path.endsWith("/versions/4/bring-back"))).toHaveLength(1);
  });

  it("are looked at large", async () => {
    await shown([version()]);
    await page.find("button.pictures").trigger("click");
    expect(page.findComponent(PairLook).props("path")).toBe("hull_bc.png");
  });

  it("name the set where they stand for a whole intake", async () => {
    await shown([version()], { intake: 8 });
    expect(page.find("a").text()).toBe("hull");
  });
});

describe("old deliveries", () => {
  it("say what holds a former state, where that lies, and how it is delivered again", async () => {
    answers([]);
    page = mounted(OldDeliveries, { slug: "ferry", set: 5 });
    await flushPromises();
    expect(page.text()).toContain("Delivery 3 for Ferry holds a former state of this set.");
    expect(page.text()).toContain("It lies at Art.");
    expect(page.text()).toContain("Deliver again");
  });
});

describe("the versions of a set", () => {
  it("begin with a file that somebody gives in place of the map's", async () => {
    answers([]);
    page = mounted(VersionsPanel, { slug: "ferry", set: 5, map: 12, mayChange: true });
    await flushPromises();
    const field = page.find("[data-test=replace]").element as HTMLInputElement;
    Object.defineProperty(field, "files", { value: [new File(["x"], "new.png")] });
    await page.find("[data-test=replace]").trigger("change");
    await flushPromises();
    expect(calls.filter((one) => one.path.endsWith("/of-map/12"))).toHaveLength(1);
  });
});
