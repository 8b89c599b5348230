import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, type MockInstance, vi } from "vitest";
import { nextTick } from "vue";

import { router } from "@/app/router";
import {
  aMap,
  anUndecided,
  aSet,
  button,
  leave,
  mounted,
  ROLES,
  serve,
  standInForBrowser,
  until,
} from "@/tests/mounting";

import SetsScreen from "./SetsScreen.vue";

let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
let pushed: MockInstance<typeof router.push>;
beforeEach(() => {
  standInForBrowser();
  pushed = vi.spyOn(router, "push").mockResolvedValue(undefined);
});
afterEach(() => leave(page));

const SETS = ["anchor", "bollard", "crate", "deck"].map((name, at) => {
  const map = (role: string, id: number) =>
    aMap(role, { id, set: at + 1, file: `${at % 2 ? "left" : "right"}/${name}_${role}.png` });
  return aSet([map("base_color", at * 10), map("normal", at * 10 + 1)], [], {
    id: at + 1,
    name,
    errors: name === "crate" ? 2 : 0,
  });
});
async function shown({ right = "rules", path = "/sets/ferry", undecided = [] as unknown[] } = {}) {
  calls = serve({
    "GET /api/projects/ferry": { slug: "ferry", name: "Ferry", target: "t", right },
    "GET /api/projects/ferry/sets": {
      roles: ROLES,
      sets: SETS,
      tiled: [],
      undecided,
      undo: null,
      redo: null,
    },
    "GET /api/projects/ferry/habit": { lines: [], taught: 0 },
    "GET /api/projects/ferry/targets": [],
    "GET /api/catalogue": { steps: [], checks: [] },
    "POST /api/projects/ferry/sets/merge": SETS[0],
    "PATCH /api/projects/ferry/sets/2": SETS[1],
    "PUT /api/projects/ferry/maps/11/place": null,
    "PUT /api/projects/ferry/maps/9/place": null,
  });
  page = mounted(SetsScreen, { slug: "ferry" }, path);
  await until(() => expect(page.findAll("[data-set]").length).toBeGreaterThan(0));
  await flushPromises();
}
const names = () => page.findAll("[data-set]").map((one) => one.attributes("data-set"));
async function press(key: string, more: KeyboardEventInit = {}) {
  window.dispatchEvent(new KeyboardEvent("keydown", { key, ...more }));
  await nextTick();
  await flushPromises();
}
const sent = (path: string) => calls.find((one) => one.method !== "GET" && one.path.endsWith(path));
const focused = () => {
  const cell = page.get(".focused");
  return [cell.element.closest("[data-set]")!.getAttribute("data-set"), cell.attributes("data-role")];
};

describe("a large project", () => {
  it("shows its first sets, by the words, until the others have come", async () => {
    let come: (value: unknown) => void = () => undefined;
    const all = new Promise((resolve) => (come = resolve));
    const list = { roles: ROLES, tiled: [], undecided: [], undo: null, redo: null };
    const answer = (_body: unknown, _seen: unknown, url: URL) =>
      url.searchParams.has("first") ? { ...list, count: 5000, sets: SETS.slice(0, 2) } : all;
    calls = serve({
      "GET /api/projects/ferry": { slug: "ferry", name: "Ferry", target: "t", right: "rules" },
      "GET /api/projects/ferry/sets": answer,
    });
    page = mounted(SetsScreen, { slug: "ferry" }, "/sets/ferry?find=o");
    await until(() => expect(names()).toEqual(["anchor", "bollard"]));
    expect(page.text()).toContain("the first 2 of 5000 sets");
    expect(calls.some((one) => one.query.includes("words=o"))).toBe(true);
    come({ ...list, count: 4, sets: SETS });
    await until(() => expect(page.text()).not.toContain("of 5000"));
  });
});

describe("the sets", () => {
  it("are found by words of their names and files", async () => {
    await shown();
    expect(names()).toEqual(["anchor", "bollard", "crate", "deck"]);
    await page.get("[aria-label='Find a set or file']").setValue("bol");
    await until(() => expect(names()).toEqual(["bollard"]));
    await page.get("[aria-label='Find a set or file']").setValue("left/deck");
    await until(() => expect(names()).toEqual(["deck"]));
  });

  it("keep how they are looked at in the address", async () => {
    await shown({ path: "/sets/ferry?show=error" });
    await until(() => expect(names()).toEqual(["crate"]));
  });

  it("are walked through by keys, and stop at the ends", async () => {
    await shown();
    await press("ArrowDown");
    expect(focused()).toEqual(["anchor", "base_color"]);
    await press("ArrowUp");
    await press("j");
    await press("ArrowRight");
    expect(focused()).toEqual(["bollard", "normal"]);
    for (let step = 0; step < 9; step++) await press("ArrowDown");
    expect(focused()).toEqual(["deck", "normal"]);
    await press("Enter");
    expect(pushed.mock.lastCall).toEqual([
      { name: "set", params: { slug: "ferry", id: 4 }, query: { map: 31 } },
    ]);
  });

  it("are selected one by one, as a range and all; the bar says how many", async () => {
    await shown();
    expect(page.find("[data-test='bulk']").exists()).toBe(false);
    await press("ArrowDown");
    await press("s");
    await press("ArrowDown");
    await press("ArrowDown");
    await press("S", { shiftKey: true });
    expect(page.get("[data-test='bulk']").text()).toContain("3 sets selected");
    await press("a", { ctrlKey: true });
    expect(page.get("[data-test='bulk']").text()).toContain("4 sets selected");
    await button(page, "Clear selection").trigger("click");
    expect(page.find("[data-test='bulk']").exists()).toBe(false);
  });

  it("are merged into the first that was selected, and delivered", async () => {
    await shown();
    await press("ArrowDown");
    await press("s");
    await press("m");
    expect(sent("/sets/merge")).toBeUndefined();
    await press("ArrowDown");
    await press("s");
    await press("Enter", { shiftKey: true });
    expect(pushed.mock.lastCall).toEqual([
      { name: "deliveries", params: { slug: "ferry" }, query: { sets: "1,2" } },
    ]);
    await press("m");
    expect(sent("/sets/merge")!.body).toMatchObject({ into: 1, sets: [1, 2] });
  });

  it("are renamed in place, unless one changes one's mind", async () => {
    await shown();
    await press("ArrowDown");
    await press("j");
    await press("n");
    await page.get("[aria-label='New name']").trigger("keydown", { key: "Escape" });
    expect(page.find("[aria-label='New name']").exists()).toBe(false);
    await press("n");
    await page.get("[aria-label='New name']").setValue("pier bollard");
    await page.get("[aria-label='New name']").trigger("keydown", { key: "Enter" });
    await flushPromises();
    expect(sent("/sets/2")!.body).toMatchObject({ name: "pier bollard" });
  });

  it("give a map another role by its digit, and let it go", async () => {
    await shown();
    await press("ArrowDown");
    await press("j");
    await press("ArrowRight");
    await press("#", { shiftKey: true, code: "Digit3" });
    expect(sent("/maps/11/place")!.body).toMatchObject({ set: 2, role: "roughness" });
    calls.length = 0;
    await press("x");
    expect(sent("/maps/11/place")!.body).toMatchObject({ set: null });
  });

  it("cannot be changed by those who may only look", async () => {
    await shown({ right: "look" });
    await press("ArrowDown");
    await press("n");
    expect(page.find("[aria-label='New name']").exists()).toBe(false);
    await press("s");
    expect(page.get("[data-test='bulk']").text()).not.toContain("Merge");
  });

  it("take undecided files where the answer says", async () => {
    await shown({ undecided: [anUndecided()] });
    await page.get(".answer").trigger("click");
    await flushPromises();
    expect(sent("/maps/9/place")!.body).toMatchObject({ set: 4, role: "base_color" });
  });
});
