import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, type MockInstance, vi } from "vitest";
import { nextTick } from "vue";

import { aMap, aSet, button, leave, mounted, ROLES, serve, standInForBrowser, until } from "@/tests/mounting";

import CommandField from "./CommandField.vue";
import JobsBadge from "./JobsBadge.vue";
import ProjectFrame from "./ProjectFrame.vue";
import { router } from "./router";

const setList = (more = {}) => ({
  roles: ROLES,
  sets: [aSet([aMap("normal")])],
  tiled: [],
  undecided: [],
  undo: null,
  redo: null,
  ...more,
});
let page: ReturnType<typeof mounted>;
let pushed: MockInstance<typeof router.push>;
beforeEach(() => {
  standInForBrowser();
  vi.stubGlobal(
    "EventSource",
    class {
      addEventListener() {}
      close() {}
    },
  );
  pushed = vi.spyOn(router, "push").mockResolvedValue(undefined);
});
afterEach(() => leave(page));
const press = (key: string, more: KeyboardEventInit = {}) =>
  window.dispatchEvent(new KeyboardEvent("keydown", { key, ...more }));

describe("the bar above a project", () => {
  async function shown(answers: Record<string, unknown> = {}) {
    const calls = serve({
      "GET /api/session": { name: "ada", staff: false },
      "GET /api/projects/ferry": { slug: "ferry", name: "Ferry", target: "t", right: "rules" },
      "GET /api/projects/ferry/sets": setList({ undo: "Rename deck to pier" }),
      "GET /api/projects/ferry/jobs": [],
      "POST /api/projects/ferry/undo": { label: "Rename deck to pier", kept: [] },
      ...answers,
    });
    page = mounted(ProjectFrame, { slug: "ferry" });
    await until(() => expect(page.text()).toContain("Ferry"));
    await flushPromises();
    return calls;
  }

  it("names what undo would take back, and says where nothing can be redone", async () => {
    const calls = await shown();
    const undo = page.get("[title='Undo: Rename deck to pier (Z)']");
    expect(page.find("[title='Nothing to redo']").exists()).toBe(true);
    await undo.trigger("click");
    await until(() => expect(calls.some((one) => one.path.endsWith("/undo"))).toBe(true));
  });

  it("goes to its places by keys, and opens the command field", async () => {
    await shown();
    press("I", { shiftKey: true });
    expect(pushed).toHaveBeenLastCalledWith({ name: "intake", params: { slug: "ferry" } });
    press("k", { ctrlKey: true });
    await until(() => expect(document.querySelector("[role=combobox]")).not.toBeNull());
  });

  it("says that a project is not there, and leads to those that are", async () => {
    serve({ "GET /api/projects/ferry/sets": setList(), "GET /api/projects/ferry/jobs": [] });
    page = mounted(ProjectFrame, { slug: "ferry" });
    await until(() => expect(page.text()).toContain("All projects"));
  });
});

describe("the command field", () => {
  const options = () => [...document.querySelectorAll<HTMLElement>("[role=option]")];
  async function type(words: string): Promise<HTMLInputElement> {
    const input = document.querySelector<HTMLInputElement>("[role=combobox]")!;
    input.value = words;
    input.dispatchEvent(new Event("input"));
    await nextTick();
    await nextTick();
    return input;
  }
  beforeEach(async () => {
    const found = (kind: string, name: string, key: string, more = {}) => ({
      kind,
      name,
      key,
      detail: "",
      slug: "ferry",
      at: "",
      ...more,
    });
    serve({
      "GET /api/search": (_body: unknown, _seen: unknown, url: URL) =>
        [
          found("set", "deck", "1"),
          found("file", "deck_normal.png", "1", { at: "1" }),
          found("cast", "Wet pier", "4"),
          found("model", "Lifeboat", "7"),
          found("ground", "Mudflat", "3"),
          found("parameter", "Dirt", "plain-solid", { slug: "", at: "dirt" }),
        ].filter((one) => one.name.toLowerCase().includes(url.searchParams.get("words")!)),
      "GET /api/projects/ferry/rules/target": [],
      "GET /api/projects/ferry/rules/layout": [],
    });
    page = mounted(CommandField, { slug: "ferry", open: true });
  });

  it("goes to a file of a set by its name", async () => {
    const input = await type("deck_normal");
    await until(() => expect(options()[0]!.textContent).toContain("deck_normal.png"));
    input.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter" }));
    expect(pushed.mock.lastCall).toEqual([
      { name: "set", params: { slug: "ferry", id: "1" }, query: { map: "1" } },
    ]);
    expect(page.emitted("update:open")!.at(-1)).toEqual([false]);
  });

  it.each([
    ["lifeboat", "models", { id: "7" }],
    ["mudflat", "ground", { id: "3" }],
    ["dirt", "materials", { kind: "master", key: "plain-solid" }],
  ])("goes to %s", async (words, name, params) => {
    const input = await type(words);
    await until(() => expect(options()[0]!.textContent.toLowerCase()).toContain(words));
    input.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter" }));
    expect(pushed.mock.lastCall).toEqual([{ name, params: { slug: "ferry", ...params } }]);
  });

  it("moves by the arrows, not past its ends, and runs what stands there", async () => {
    const input = await type("deck");
    await until(() => expect(options()).toHaveLength(2));
    for (const key of ["ArrowUp", "ArrowDown", "ArrowDown", "ArrowDown", "ArrowDown"])
      input.dispatchEvent(new KeyboardEvent("keydown", { key }));
    await nextTick();
    const chosen = options().filter((one) => one.getAttribute("aria-selected") === "true");
    expect(chosen).toEqual([options().at(-1)]);
  });

  it("says that nothing has a name that nothing has", async () => {
    await type("no such thing anywhere");
    expect(document.body.textContent).toContain("Nothing has that name.");
  });
});

describe("the jobs", () => {
  const job = { id: 5, title: "Check 4 sets", state: "running", done: 1, total: 4, message: "", attempt: 1 };
  async function shown(jobs: unknown[]) {
    const calls = serve({
      "GET /api/projects/ferry/jobs": jobs,
      "POST /api/projects/ferry/jobs/5/cancel": null,
    });
    page = mounted(JobsBadge, { slug: "ferry" });
    await flushPromises();
    return calls;
  }

  it("are counted, with what each does and how far it is, and can be cancelled", async () => {
    const calls = await shown([job, { ...job, id: 6, state: "waiting", total: 0 }]);
    expect(page.text()).toContain("2 jobs");
    await page.get("button").trigger("click");
    await until(() => expect(document.body.textContent).toContain("Check 4 sets"));
    expect(document.body.textContent).toContain("1 of 4");
    const cancel = [...document.querySelectorAll("button")].find(
      (one) => one.textContent?.trim() === "Cancel",
    )!;
    cancel.click();
    await until(() => expect(calls.some((one) => one.path.endsWith("/5/cancel"))).toBe(true));
  });

  it("that failed are told once none runs any more", async () => {
    await shown([{ ...job, state: "failed" }]);
    expect(button(page, "1 failed").classes()).toContain("error");
    await shown([]);
    expect(page.text()).toContain("No jobs");
  });
});
