import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import { forgetChanges } from "@/api/conflicts";
import type { Watched } from "@/api/watched";
import { button, leave, mounted, serve, standInForBrowser } from "@/tests/mounting";

import WatchedFolders from "./WatchedFolders.vue";
import WatchedForm from "./WatchedForm.vue";

let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
beforeEach(standInForBrowser);
afterEach(() => {
  forgetChanges();
  leave(page);
});

const folder = (more: Partial<Watched> = {}): Watched => ({
  id: 3,
  revision: 1,
  name: "Paint",
  place: "paint",
  path: "/srv/paint",
  quiet: 2,
  paused: false,
  problem: "",
  intake: 8,
  taken: 5,
  files: [],
  ...more,
});

async function shown(rows: Watched[], more: Record<string, unknown> = {}) {
  calls = serve({
    "GET /api/projects/ferry/watched": rows,
    "GET /api/projects/ferry/watched/allowed": { folders: ["/srv"] },
    "GET /api/projects/ferry/versions": [],
    "GET /api/projects/ferry/deliveries/outdated": [],
    "PATCH /api/projects/ferry/watched/3": folder(),
    "POST /api/projects/ferry/watched/3/again": folder(),
  });
  page = mounted(WatchedFolders, { slug: "ferry", mayPrepare: true, mayRule: true, ...more });
  await flushPromises();
}
const sent = (method: string, ending: string) =>
  calls.filter((one) => one.method === method && one.path.endsWith(ending));

describe("watched folders", () => {
  it.each([
    [folder(), "5 files taken in"],
    [folder({ taken: 0 }), "No textures there yet"],
    [folder({ paused: true }), "Paused"],
    [folder({ problem: "it cannot be looked into" }), "it cannot be looked into"],
    [
      folder({
        files: [
          { path: "a.png", state: "changing", problem: "" },
          { path: "b.png", state: "arriving", problem: "" },
          { path: "c.png", state: "refused", problem: "ends early" },
          { path: "d.png", state: "missing", problem: "" },
        ],
      }),
      "5 files taken in, 2 being written, 1 cannot be read, 1 no longer there",
    ],
  ])("say how they stand", async (one, words) => {
    await shown([one]);
    expect(page.find("[data-test=watched-standing]").text()).toBe(words);
  });

  it("name each file that cannot be read, and try it again", async () => {
    await shown([folder({ files: [{ path: "c.png", state: "refused", problem: "ends early" }] })]);
    expect(page.text()).toContain("ends early");
    await button(page, "Try again").trigger("click");
    expect(sent("POST", "/again")).toHaveLength(1);
  });

  it("are paused and gone on with", async () => {
    await shown([folder()]);
    await button(page, "Pause").trigger("click");
    await flushPromises();
    expect(sent("PATCH", "/watched/3")[0]!.body).toMatchObject({ paused: true, name: "Paint" });
  });

  it("show what was exported again when asked", async () => {
    await shown([folder()]);
    expect(sent("GET", "/versions")).toHaveLength(0);
    await button(page, "Exported again").trigger("click");
    await flushPromises();
    expect(page.text()).toContain("Every file is as it first came.");
  });

  it("are changed by those who set rules alone", async () => {
    await shown([folder()], { mayRule: false });
    expect(page.text()).not.toContain("Watch a folder");
    expect(page.text()).not.toContain("Pause");
  });
});

describe("the form for a watched folder", () => {
  it("sends a new one, and says where folders may lie", async () => {
    const given: unknown[] = [];
    calls = serve({ "GET /api/projects/ferry/watched/allowed": { folders: ["/srv"] } });
    const changes = { busy: { value: false }, add: (one: unknown) => Promise.resolve(given.push(one)) };
    page = mounted(WatchedForm, { slug: "ferry", watched: null, changes });
    await flushPromises();
    expect(page.text()).toContain("/srv");
    const [name, place] = page.findAll("input");
    await name!.setValue("Paint");
    await place!.setValue("paint");
    await page.find("form").trigger("submit");
    await flushPromises();
    expect(given).toEqual([{ name: "Paint", place: "paint", quiet: 2 }]);
    expect(page.emitted("done")).toHaveLength(1);
  });
});
