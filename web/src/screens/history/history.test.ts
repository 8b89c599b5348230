import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { button, choose, mounted, serve, standInForBrowser, until } from "@/tests/mounting";

import HistoryScreen from "./HistoryScreen.vue";

const BASE = "/api/projects/ferry";
const line = (id: number, more: Record<string, unknown> = {}) => ({
  id,
  at: "2026-11-29T10:00:00Z",
  by: "ada",
  what: "change",
  label: `Change ${id}`,
  about: [{ kind: "sets", key: "7", called: "deck" }],
  count: 1,
  undone: false,
  has_more: true,
  ...more,
});
const FIELD = { kind: "sets", key: "7", called: "deck", field: "the name", map: null };

beforeEach(() => standInForBrowser());
afterEach(() => {
  document.body.innerHTML = "";
  vi.unstubAllGlobals();
});

async function screen(lines: unknown[], older = false, path = "/") {
  const calls = serve({
    [`GET ${BASE}/history`]: { lines, people: ["ada", "bram"], older },
    [`GET ${BASE}/history/3`]: [
      { ...FIELD, before: "deck", after: "pier" },
      {
        ...FIELD,
        kind: "placements",
        field: "its steps",
        map: 9,
        before: [],
        after: [{ step: "flip_green" }],
      },
    ],
  });
  const shown = mounted(HistoryScreen, { slug: "ferry" }, path);
  await until(() => expect(calls.length).toBeGreaterThan(0));
  await flushPromises();
  return { calls, shown };
}

describe("the history", () => {
  it("says who did what to what, and what was taken back", async () => {
    const { shown } = await screen([line(3), line(2, { what: "undo" }), line(1, { undone: true, by: null })]);
    expect(shown.findAll("[data-line]").map((one) => one.get("b").text())).toEqual([
      "ada",
      "ada",
      "somebody",
    ]);
    expect(shown.get("[data-line='2']").text()).toContain("taken back: Change 2");
    expect(shown.get("[data-line='1'] .undone").text()).toBe("Change 1");
    expect(shown.get("[data-line='3'] a").text()).toBe("deck");
  });

  it("opens a line: fields in words, maps as two pictures", async () => {
    const { shown } = await screen([line(3)]);
    await button(shown, "Details of Change 3").trigger("click");
    await until(() => expect(shown.text()).toContain("pier"));
    expect(shown.text()).toContain("the name");
    expect(shown.findAll("img").map((one) => decodeURIComponent(one.attributes("src")!))).toEqual([
      `${BASE}/maps/9/preview?recipe=[]&side=256`,
      `${BASE}/maps/9/preview?recipe=[{"step":"flip_green"}]&side=256`,
    ]);
  });

  it("asks for what the address names, and for older lines", async () => {
    const { shown, calls } = await screen([line(3)], true, "/history/ferry?person=bram&about=sets:7&days=7");
    const asked = new URLSearchParams(calls.at(-1)!.query);
    expect([asked.get("person"), asked.get("about")]).toEqual(["bram", "sets:7"]);
    expect(Date.now() - Date.parse(asked.get("since")!)).toBeGreaterThan(6.9 * 86_400_000);
    expect(shown.text()).toContain("of deck");
    await button(shown, "Show older lines").trigger("click");
    await until(() => expect(new URLSearchParams(calls.at(-1)!.query).get("before")).toBe("3"));
  });

  it("says when nothing fits", async () => {
    const { shown } = await screen([]);
    expect(shown.text()).toContain("Nothing was done that fits");
  });

  it("is that of the library where this is asked for, with links to what it names", async () => {
    const published = line(8, { label: "Publish Stone 1.0.0", has_more: false });
    const about = [{ kind: "masters", key: "stone", called: "Stone" }];
    const calls = serve({
      "GET /api/history": { lines: [{ ...published, about }], people: ["iris"], older: false },
    });
    const shown = mounted(HistoryScreen, { slug: "ferry" }, "/history/ferry?of=library&kind=masters");
    await until(() => expect(shown.text()).toContain("Publish Stone 1.0.0"));
    expect(calls.some((one) => one.query.includes("kind=masters"))).toBe(true);
    expect(shown.get("[data-line='8'] a").attributes("href")).toContain("materials/ferry/master/stone");
    await choose(shown, "Whose history", "This project");
    await until(() => expect(calls.some((one) => one.path === `${BASE}/history`)).toBe(true));
  });
});
