import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, type MockInstance, vi } from "vitest";

import { router } from "@/app/router";
import { choose, leave, mounted, serve, standInForBrowser, until } from "@/tests/mounting";

import NewProject from "./NewProject.vue";
import Projects from "./Projects.vue";

let pushed: MockInstance<typeof router.push>;
let page: ReturnType<typeof mounted>;
beforeEach(() => {
  standInForBrowser();
  pushed = vi.spyOn(router, "push").mockResolvedValue(undefined);
});
afterEach(() => leave(page));

const QUIET = { errors: 0, warnings: 0, undecided: 0, unchecked: 0 };
const project = (more = {}) => ({
  slug: "ferry",
  name: "Ferry",
  target: "sheltered",
  right: "prepare",
  revision: 1,
  sets: 1,
  people: ["ada"],
  prints: [],
  waiting: QUIET,
  last_change: null,
  ...more,
});

describe("the projects", () => {
  async function shown(...projects: unknown[]) {
    serve({ "GET /api/projects": projects });
    page = mounted(Projects);
    await until(() => expect(page.text()).toMatch(/project/));
    await flushPromises();
  }

  it("say what waits in each, worst first, and what one may do there", async () => {
    const waiting = { ...QUIET, errors: 2, undecided: 1 };
    await shown(project({ waiting }), project({ slug: "pier", name: "Pier", sets: 3, right: "look" }));
    const ferry = page.get("[data-project=ferry]").text();
    expect(ferry).toMatch(/2 with errors.*1 undecided file/);
    expect(ferry).toContain("1 set, delivers to");
    expect(ferry).toContain("you may prepare and deliver");
    const pier = page.get("[data-project=pier]").text();
    expect(pier).toContain("nothing waits");
    expect(pier).toContain("3 sets, delivers to");
    expect(page.text()).toContain("2 projects");
  });

  it("name some of those who are in, and count the others; the last change says by whom", async () => {
    const people = ["ada", "bo", "cy", "di", "ed", "flo", "gus", "hal"];
    const last_change = { label: "Merge 2 sets", by: null, at: "2026-11-01T10:00:00Z" };
    await shown(project({ people, last_change }));
    expect(page.findAll("[role=img][aria-label]").map((one) => one.attributes("aria-label"))).toEqual(
      expect.arrayContaining(people.slice(0, 6)),
    );
    expect(page.text()).toContain("and 2 more");
    expect(page.text()).toContain("last change: Merge 2 sets (somebody");
  });

  it("tell somebody who is in none how to begin", async () => {
    await shown();
    expect(page.text()).toContain("Make one: it is yours");
  });
});

describe("a new project", () => {
  const inDocument = <T extends Element>(selector: string) => document.querySelector<T>(selector)!;
  const submit = () => inDocument<HTMLButtonElement>("button[type=submit]");
  async function opened(answers: Record<string, unknown> = {}) {
    const calls = serve({
      "GET /api/targets": [
        { name: "orm-y-minus", title: "Packed, Y-" },
        { name: "sheltered", title: "Sheltered" },
      ],
      "GET /api/projects": [],
      "POST /api/projects": { slug: "jetty" },
      ...answers,
    });
    page = mounted(NewProject, { open: true, projects: [project()] });
    await until(() => expect(inDocument("form")).not.toBeNull());
    await flushPromises();
    return calls;
  }
  async function call(name: string) {
    const input = inDocument<HTMLInputElement>("form input[maxlength]");
    input.value = name;
    input.dispatchEvent(new Event("input"));
    await flushPromises();
  }

  it("needs a name, and begins at its intake", async () => {
    const calls = await opened();
    expect(submit().disabled).toBe(true);
    await call("Jetty");
    inDocument<HTMLFormElement>("form").dispatchEvent(new Event("submit"));
    await until(() => expect(pushed).toHaveBeenCalled());
    expect(calls.find((one) => one.method === "POST")!.body).toEqual({
      name: "Jetty",
      target: "orm-y-minus",
      rules_from: null,
      sample: false,
    });
    expect(pushed.mock.lastCall).toEqual([{ name: "intake", params: { slug: "jetty" } }]);
  });

  it("takes another project's rules once one is chosen", async () => {
    const calls = await opened();
    await call("Jetty");
    const rules = inDocument<HTMLInputElement>("input[type=radio][value=rules]");
    rules.checked = true;
    rules.dispatchEvent(new Event("change"));
    await flushPromises();
    expect(submit().disabled).toBe(true);
    await choose(page, "Project whose rules are copied", "Ferry");
    expect(submit().disabled).toBe(false);
    inDocument<HTMLFormElement>("form").dispatchEvent(new Event("submit"));
    await until(() => expect(pushed).toHaveBeenCalled());
    expect(calls.find((one) => one.method === "POST")!.body).toMatchObject({
      target: null,
      rules_from: "ferry",
    });
  });

  it("says why it could not be made, and stays open", async () => {
    await opened({ "POST /api/projects": undefined });
    await call("Jetty");
    inDocument<HTMLFormElement>("form").dispatchEvent(new Event("submit"));
    await until(() => expect(inDocument("[role=alert]")).not.toBeNull());
    expect(inDocument("[role=alert]").textContent).toContain("no answer for /api/projects");
    expect(pushed).not.toHaveBeenCalled();
  });
});
