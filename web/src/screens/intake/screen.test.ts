import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import type { Intake } from "@/api/types";
import { button, leave, mounted, serve, standInForBrowser, until } from "@/tests/mounting";

import IntakeScreen from "./IntakeScreen.vue";

let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
beforeEach(standInForBrowser);
afterEach(() => leave(page));

const intake = (more: Partial<Intake> = {}): Intake =>
  ({
    id: 3,
    name: "untidy",
    state: "sorted",
    created: "2026-11-20T10:00:00Z",
    by: "ada",
    files: 12,
    problems: 0,
    sets: 2,
    undecided: 1,
    ...more,
  }) as Intake;
async function shown(rows: Intake[], right = "prepare") {
  calls = serve({
    "GET /api/projects/ferry": { slug: "ferry", name: "Ferry", target: "x", right },
    "GET /api/projects/ferry/intakes": rows,
    "GET /api/projects/ferry/jobs": [],
    "POST /api/projects/ferry/intakes/sample": intake({ id: 4, name: "sample", state: "sorting" }),
    "POST /api/projects/ferry/intakes/3/sort": intake({ state: "sorting" }),
    "DELETE /api/projects/ferry/intakes/3": {},
  });
  page = mounted(IntakeScreen, { slug: "ferry" });
  await flushPromises();
}
const asked = (method: string) => calls.filter((one) => one.method === method).map((one) => one.path);

describe("the intake", () => {
  it("offers the sample where nothing was taken in yet", async () => {
    await shown([]);
    await button(page, "Take in the sample folder").trigger("click");
    await flushPromises();
    expect(asked("POST")).toEqual(["/api/projects/ferry/intakes/sample"]);
  });

  it("lists what came, without the sample then", async () => {
    await shown([intake()]);
    expect(page.text()).toContain("untidy");
    expect(page.text()).not.toContain("Take in the sample folder");
  });

  it("sorts what failed once more, or gives it up", async () => {
    await shown([intake({ state: "failed" })]);
    await button(page, "Sort now").trigger("click");
    await button(page, "Discard").trigger("click");
    await flushPromises();
    expect(asked("POST")).toEqual(["/api/projects/ferry/intakes/3/sort"]);
    expect(asked("DELETE")).toEqual(["/api/projects/ferry/intakes/3"]);
  });

  it("takes nothing from people who may only look, and says so", async () => {
    await shown([intake()], "look");
    expect(page.find("[data-test=folder]").exists()).toBe(false);
    expect(page.find(".drop").exists()).toBe(false);
    expect(page.text()).toContain("look");
  });

  it("says so when what was dropped holds no file", async () => {
    await shown([]);
    const drop = page.get(".drop");
    await drop.trigger("dragover");
    expect(drop.classes()).toContain("over");
    await drop.trigger("drop", { dataTransfer: { items: [], files: [] } });
    await until(() => expect(page.get("[role=alert]").text()).toContain("no files"));
    expect(drop.classes()).not.toContain("over");
  });
});
