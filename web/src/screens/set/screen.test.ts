import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, type MockInstance, vi } from "vitest";
import { nextTick } from "vue";

import { router } from "@/app/router";
import {
  aFinding,
  aMap,
  aSet,
  button,
  leave,
  mounted,
  ROLES,
  serve,
  standInForBrowser,
  until,
} from "@/tests/mounting";

import SetScreen from "./SetScreen.vue";

let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
let pushed: MockInstance<typeof router.push>;
let replaced: MockInstance<typeof router.push>;
beforeEach(() => {
  standInForBrowser();
  pushed = vi.spyOn(router, "push").mockResolvedValue(undefined);
  replaced = vi.spyOn(router, "replace").mockResolvedValue(undefined);
});
afterEach(() => leave(page));

const FLIP = {
  step: "flip_green",
  label: "Flip green",
  group: "Normals",
  roles: ["normal"],
  help: "",
  options: [],
};
const MAPS = [aMap("normal", { id: 1 }), aMap("roughness", { id: 2 })];
const deck = (more = {}) => aSet(MAPS, [aFinding()], { id: 1, name: "deck", ...more });
async function shown({ right = "rules", set = deck() as unknown, ...answers }: Record<string, unknown> = {}) {
  const others = [deck(), aSet([], [], { id: 2, name: "pier" })];
  calls = serve({
    "GET /api/projects/ferry": { slug: "ferry", name: "Ferry", target: "sheltered", right },
    "GET /api/projects/ferry/sets": {
      roles: ROLES,
      sets: others,
      tiled: [],
      undecided: [],
      undo: null,
      redo: null,
    },
    "GET /api/projects/ferry/sets/1": set,
    "GET /api/catalogue": {
      steps: [FLIP],
      checks: [],
      derivations: [],
      formats: [],
      sorts: [],
      misreadings: [],
    },
    "GET /api/projects/ferry/targets": [],
    "GET /api/projects/ferry/rules/licences": [],
    "PUT /api/projects/ferry/maps/1/recipe": MAPS[0],
    "POST /api/projects/ferry/sets/1/judge": null,
    ...answers,
  });
  page = mounted(SetScreen, { slug: "ferry", id: 1 }, "/set/ferry/1");
  await until(() => expect(page.text()).toMatch(/deck|no longer/));
  await flushPromises();
}
async function press(key: string, more: KeyboardEventInit = {}) {
  window.dispatchEvent(new KeyboardEvent("keydown", { key, ...more }));
  await nextTick();
  await flushPromises();
}
const recipe = () => calls.find((one) => one.path.endsWith("/maps/1/recipe"));

describe("a set's page", () => {
  it("tries a remedy on the picture first, and keeps it only when it is applied", async () => {
    await shown();
    await button(page, "Flip green").trigger("click");
    await flushPromises();
    expect(recipe()).toBeUndefined();
    expect(page.text()).toContain("not applied yet");
    await button(page, "Apply Enter").trigger("click");
    await flushPromises();
    expect(recipe()!.body).toMatchObject({ recipe: [{ step: "flip_green" }] });
  });

  it("lets a remedy that was tried go by Escape, then leaves", async () => {
    await shown();
    await button(page, "Flip green").trigger("click");
    await flushPromises();
    await press("Escape");
    expect(page.text()).not.toContain("not applied yet");
    expect(pushed).not.toHaveBeenCalled();
    await press("Escape");
    expect(pushed.mock.lastCall).toEqual([{ name: "sets", params: { slug: "ferry" } }]);
  });

  it("goes to the next set, and not past the last", async () => {
    await shown();
    await press("k");
    expect(replaced).not.toHaveBeenCalled();
    await press("j");
    expect(replaced.mock.lastCall).toEqual([{ name: "set", params: { slug: "ferry", id: 2 } }]);
  });

  it("offers nothing to change to those who may only look", async () => {
    await shown({ right: "look" });
    expect(page.findAll("button").some((one) => one.text() === "Flip green")).toBe(false);
    expect(page.text()).toContain("Green direction contradicts the name");
  });

  it("says where a set has gone to, and leads back to the others", async () => {
    await shown({ "GET /api/projects/ferry/sets/1": undefined });
    await until(() => expect(page.text()).toContain("This set no longer exists"));
    expect(page.get("a").attributes("href")).toBe("/sets/ferry");
  });
});
