import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { defineComponent, h, ref } from "vue";

import { button, mounted, serve, standInForBrowser, until } from "@/tests/mounting";

import CastComments from "./CastComments.vue";
import CommentList from "./CommentList.vue";
import InboxBadge from "./InboxBadge.vue";
import PresenceMarks from "./PresenceMarks.vue";
import ReviewBar from "./ReviewBar.vue";
import { type Places, usePlaces } from "./usePlaces";

const BASE = "/api/projects/ferry";
const AT = "2026-11-29T10:00:00Z";
const line = (id: number, more: Record<string, unknown> = {}) => ({
  id,
  text: `Words ${id}`,
  by: "bram",
  mine: false,
  created: AT,
  edited: null,
  revision: 1,
  ...more,
});
const comment = (id: number, more: Record<string, unknown> = {}) => ({
  ...line(id),
  set: 7,
  cast: null,
  name: "deck",
  map: 9,
  x: 0.25,
  y: 0.5,
  check: "",
  mentions: [],
  closed: null,
  closed_by: null,
  answers: [],
  ...more,
});
const last = (calls: ReturnType<typeof serve>, method: string) =>
  calls.filter((one) => one.method === method).at(-1);

beforeEach(() => standInForBrowser());
afterEach(() => {
  document.body.innerHTML = "";
  vi.unstubAllGlobals();
});

describe("comments", () => {
  function list(comments: unknown[], places?: Places) {
    const calls = serve({
      [`POST ${BASE}/comments`]: comment(5),
      [`PATCH ${BASE}/comments/3`]: comment(3),
      [`DELETE ${BASE}/comments/3`]: null,
      [`PUT ${BASE}/comments/2/closed`]: comment(2),
    });
    return { calls, shown: mounted(CommentList, { slug: "ferry", about: { set: 7 }, comments, places }) };
  }

  it("are written, answered and settled", async () => {
    const { calls, shown } = list([comment(2, { answers: [line(4)] })]);
    expect(shown.findAll(".line").map((one) => one.get(".text").text())).toEqual(["Words 2", "Words 4"]);
    await shown.get("[aria-label=Comment]").setValue("Too dark, @ada");
    await shown.get("form").trigger("submit");
    await flushPromises();
    expect(last(calls, "POST")?.body).toMatchObject({ set: 7, text: "Too dark, @ada" });
    await button(shown, "Answer to bram").trigger("click");
    await shown.get("textarea[aria-label='Answer to bram']").setValue("Yes");
    await shown.findAll("form").at(-1)!.trigger("submit");
    await flushPromises();
    expect(last(calls, "POST")?.body).toMatchObject({ parent: 2, text: "Yes" });
    await button(shown, "Settle").trigger("click");
    await flushPromises();
    expect(last(calls, "PUT")?.body).toEqual({ closed: true });
  });

  it("are changed and taken away by whoever wrote them", async () => {
    const { calls, shown } = list([comment(3, { mine: true })]);
    await button(shown, "Edit").trigger("click");
    await shown.get("textarea[aria-label=Edit]").setValue("Better words");
    await button(shown, "Save").trigger("click");
    await flushPromises();
    expect(last(calls, "PATCH")?.body).toEqual({ text: "Better words" });
    await button(shown, "Remove").trigger("click");
    await flushPromises();
    expect(last(calls, "DELETE")?.path).toBe(`${BASE}/comments/3`);
  });

  it("that are settled are folded away", async () => {
    const { shown } = list([comment(2, { closed: AT, closed_by: "ada" })]);
    expect(shown.text()).not.toContain("Words 2");
    await button(shown, "1 settled comment").trigger("click");
    expect(shown.text()).toContain("settled by ada");
  });

  it("stand at places of the map that is shown, and a new one at the place that was marked", async () => {
    serve({
      [`GET ${BASE}/comments`]: [comment(2), comment(3, { map: 8 }), comment(4, { x: null, y: null })],
    });
    let places!: Places;
    const Host = defineComponent({
      setup() {
        places = usePlaces(
          () => "ferry",
          () => 7,
          {
            map: ref({ id: 9 }),
            shownFinding: ref({ check: "green", title: "Green points down", map: 8 }),
          },
        );
        return () => h("div");
      },
    });
    mounted(Host);
    await until(() => expect(places.pins.value).toHaveLength(1));
    expect(places.pins.value[0]).toEqual({ id: 2, x: 0.25, y: 0.5, label: "1" });
    places.mark(0.5, 0.75);
    expect(places.pins.value.at(-1)).toMatchObject({ id: 0, x: 0.5, y: 0.75 });
    const { calls, shown } = list([], places);
    await shown.get("[aria-label=Comment]").setValue("Here");
    await shown.get("form").trigger("submit");
    await flushPromises();
    expect(shown.text()).toContain("About the finding: Green points down");
    expect(last(calls, "POST")?.body).toMatchObject({ set: 7, map: 9, x: 0.5, y: 0.75, check: "green" });
    expect(places.place.value).toBeNull();
  });
});

describe("the review of a set", () => {
  async function bar(state: string, right: string, sets = [7]) {
    const row = { set: 7, name: "deck", state, reason: "The seam", by: "ada", at: AT };
    const calls = serve({ [`GET ${BASE}/reviews`]: state ? [row] : [], [`POST ${BASE}/reviews`]: [row] });
    const shown = mounted(ReviewBar, { slug: "ferry", sets, right });
    await until(() => expect(calls).toHaveLength(1));
    await flushPromises();
    return { calls, shown, labels: shown.findAll("button").map((one) => one.text()) };
  }

  it.each([
    ["", "prepare", ["Mark ready"]],
    ["ready", "prepare", ["Take out of review"]],
    ["ready", "rules", ["Approve", "Send back"]],
    ["approved", "manage", ["Send back"]],
    ["sent_back", "prepare", ["Mark ready"]],
    ["changed", "look", []],
  ])("that is %s lets somebody who may %s take these steps: %s", async (state, right, wanted) => {
    expect((await bar(state, right)).labels).toEqual(wanted);
  });

  it("is taken on, and says why it was sent back", async () => {
    const { calls, shown } = await bar("sent_back", "prepare");
    expect(shown.text()).toContain("Sent back by ada: The seam");
    await button(shown, "Mark ready").trigger("click");
    await until(() => expect(last(calls, "POST")?.body).toEqual({ sets: [7], state: "ready", reason: "" }));
  });

  it("of sets that stand differently offers no step for all", async () => {
    expect((await bar("ready", "rules", [7, 8])).labels).toEqual([]);
  });
});

it("others who have the same open stand beside it, and the server is told of oneself", async () => {
  const calls = serve({
    [`GET ${BASE}/presence`]: [{ person: "bram", about: "sets:7", editing: true }],
    [`PUT ${BASE}/presence`]: null,
    [`DELETE ${BASE}/presence/x`]: null,
  });
  const shown = mounted(PresenceMarks, { slug: "ferry", about: "sets:7" });
  await until(() => expect(shown.text()).toContain("bram is changing this"));
  expect(last(calls, "PUT")?.body).toMatchObject({ about: "sets:7", editing: false });
  shown.unmount();
  await until(() => expect(last(calls, "DELETE")).toBeTruthy());
});

it("what waits for oneself and what one was told is counted, shown and seen", async () => {
  const calls = serve({
    "GET /api/notices": [
      {
        id: 1,
        project: "Ferry",
        by: "ada",
        text: "ada approves deck",
        path: "/p/ferry/set/7",
        created: AT,
        seen: null,
      },
    ],
    "GET /api/waiting": [
      { kind: "approve", project: "Ferry", text: "quay", path: "/p/ferry/set/8", by: "bram", at: AT },
    ],
    "PUT /api/notices/seen": null,
  });
  const shown = mounted(InboxBadge);
  await until(() => expect(shown.get("[data-test=inbox]").text()).toContain("2"));
  await shown.get("[data-test=inbox]").trigger("click");
  await until(() => expect(document.body.textContent).toContain("ada approves deck"));
  expect(document.body.textContent).toContain("quay bram to approve");
  const all = [...document.querySelectorAll("button")].find((one) => one.textContent === "Mark all as seen")!;
  all.click();
  await until(() => expect(last(calls, "PUT")?.path).toBe("/api/notices/seen"));
});

it("a cast has comments of its own, without places", async () => {
  const calls = serve({
    [`GET ${BASE}/comments`]: [comment(2, { set: null, cast: 4, map: null, x: null, y: null })],
    [`GET ${BASE}/presence`]: [],
    [`PUT ${BASE}/presence`]: null,
    [`POST ${BASE}/comments`]: comment(3),
  });
  const shown = mounted(CastComments, { slug: "ferry", cast: 4 });
  await until(() => expect(shown.text()).toContain("Words 2"));
  expect(shown.text()).not.toContain("Mark a place");
  await shown.get("[aria-label=Comment]").setValue("Wetter");
  await shown.get("form").trigger("submit");
  await flushPromises();
  expect(last(calls, "POST")?.body).toMatchObject({ cast: 4, text: "Wetter", check: "" });
});
