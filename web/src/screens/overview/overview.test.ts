import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import { row as aModel } from "@/tests/models";
import { aSet, mounted, ROLES, serve, until } from "@/tests/mounting";

import OverviewScreen from "./OverviewScreen.vue";

afterEach(() => vi.unstubAllGlobals());

const QUIET = { undecided: 0, errors: 0, warnings: 0, unchecked: 0 };
const overview = (more = {}) => ({
  waiting: QUIET,
  sets: 2,
  checks: [],
  changed: [],
  undelivered: [],
  changes: [],
  ...more,
});

/** The overview with what the server says of the project. */
async function shown(answers: Record<string, unknown> = {}) {
  serve({
    "GET /api/projects/ferry": { slug: "ferry", name: "Ferry", target: "sheltered", right: "rules" },
    "GET /api/projects/ferry/overview": overview(),
    "GET /api/projects/ferry/sets": {
      roles: ROLES,
      sets: [aSet([])],
      tiled: [],
      undecided: [],
      undo: null,
      redo: null,
    },
    "GET /api/projects/ferry/habit": { lines: [], taught: 0 },
    "GET /api/projects/ferry/materials": { masters: [], casts: [] },
    "GET /api/projects/ferry/names": { files: [] },
    "GET /api/projects/ferry/models": [],
    "GET /api/projects/ferry/grounds": [],
    "GET /api/projects/ferry/jobs": [],
    "GET /api/projects/ferry/deliveries": [{ state: "done" }],
    "GET /api/projects/ferry/intakes": [],
    "GET /api/projects/ferry/targets": [],
    "GET /api/projects/ferry/budget/sheltered": { memory: 0, budget: null },
    ...answers,
  });
  const screen = mounted(OverviewScreen, { slug: "ferry" });
  await until(() => expect(screen.findAll("[data-group]").length).toBeGreaterThan(5));
  await flushPromises();
  const row = (key: string) => screen.get(`[data-waiting='${key}']`);
  return { screen, row, link: (key: string) => row(key).get("a").attributes("href") };
}

describe("the overview", () => {
  it("says that nothing waits, and offers no first steps once something was delivered", async () => {
    const { screen } = await shown();
    expect(screen.text()).toContain("nothing waits");
    expect(screen.find("[data-test='first-steps']").exists()).toBe(false);
    expect(screen.find("[data-waiting]").exists()).toBe(false);
  });

  it("counts what waits, and each number leads to the list that shows it", async () => {
    const { screen, row, link } = await shown({
      "GET /api/projects/ferry/overview": overview({
        waiting: { undecided: 3, errors: 1, warnings: 2, unchecked: 0 },
        checks: [{ check: "seam", title: "Visible seam", severity: "warning", sets: 2 }],
        changed: [1],
        undelivered: [1, 2],
      }),
    });
    expect(row("undecided").text()).toContain("3undecided files");
    expect(row("errors").text()).toContain("1set with errors");
    expect(row("undelivered").text()).toContain("2sets never delivered");
    expect(link("errors")).toBe("/sets/ferry?show=error");
    expect(link("check seam")).toBe("/sets/ferry?check=seam");
    expect(link("changed")).toBe("/sets/ferry?since=changed");
    expect(screen.find("[data-waiting='unchecked']").exists()).toBe(false);
    expect(screen.text()).toContain("6 things to look at");
  });

  it("tells guesses from what was taught, and jobs that failed from those that run", async () => {
    const line = { suffix: "_x", decided: true, certain: false, taught: false };
    const { row, screen } = await shown({
      "GET /api/projects/ferry/habit": { lines: [line, { ...line, taught: true }], taught: 1 },
      "GET /api/projects/ferry/jobs": [{ state: "running" }, { state: "waiting" }, { state: "failed" }],
    });
    expect(row("guesses").text()).toContain("1suffix is a guess");
    expect(row("running").text()).toContain("2jobs running");
    expect(row("failed").text()).toContain("1job failed");
    expect(screen.text()).toContain("1 thing to look at");
  });

  it("counts slots of models and layers of ground that wear nothing", async () => {
    const { row, link } = await shown({
      "GET /api/projects/ferry/models": [aModel({ empty: 2, warnings: 1 })],
      "GET /api/projects/ferry/grounds": [{ id: 3, name: "Marsh", layers: 5, empty: 1 }],
    });
    expect(row("slots 7").text()).toContain("2slots of Ferry wear nothing");
    expect(row("model 7").text()).toContain("1warning about Ferry");
    expect(row("ground 3").text()).toContain("1layer of Marsh wears nothing");
    expect(link("slots 7")).toContain("/models");
  });

  it("leads from step to step until something is delivered, the next one marked", async () => {
    const { screen } = await shown({
      "GET /api/projects/ferry/deliveries": [],
      "GET /api/projects/ferry/intakes": [{ state: "sorted" }],
      "GET /api/projects/ferry/overview": overview({ waiting: { ...QUIET, undecided: 1 } }),
    });
    const steps = screen.findAll("[data-test='first-steps'] li");
    expect(steps[0]!.classes()).toContain("done");
    expect(steps[1]!.classes()).toContain("next");
    expect(steps[1]!.get("a").attributes("href")).toBe("/sets/ferry");
    expect(steps.at(-1)!.text()).toContain("Deliver");
  });

  it("names who changed what last", async () => {
    const at = "2026-11-01T10:00:00Z";
    const { screen } = await shown({
      "GET /api/projects/ferry/overview": overview({
        changes: [
          { label: "Rename deck to pier", by: "ada", at },
          { label: "Merge 2 sets", by: null, at },
        ],
      }),
    });
    const lines = screen.findAll("[data-group='Last changes'] li").map((one) => one.text());
    expect(lines[0]).toContain("Rename deck to pier");
    expect(lines[0]).toContain("ada");
    expect(lines[1]).toContain("somebody");
  });
});
