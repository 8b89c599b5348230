import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import { forgetChanges } from "@/api/conflicts";
import TargetsOfSets from "@/screens/sets/TargetsOfSets.vue";
import { aSet, button, choose, leave, mounted, ROLES, serve, standInForBrowser } from "@/tests/mounting";

import CompareDeliveries from "./CompareDeliveries.vue";
import DeliveriesScreen from "./DeliveriesScreen.vue";
import { aPlace as place, aTransfer as transfer } from "@/tests/places";

let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
beforeEach(standInForBrowser);
afterEach(() => {
  forgetChanges();
  leave(page);
});
const sent = (method: string, ending: string) =>
  calls.filter((one) => one.method === method && one.path.endsWith(ending)).map((one) => one.body);

describe("two deliveries", () => {
  it("are compared picture by picture, with the reason of each change", async () => {
    calls = serve({
      "GET /api/projects/ferry/deliveries/compare": [
        { path: "deck/deck_orm.png", set: "deck", status: "changed", why: ["source", "recipe"] },
        { path: "deck/deck_color.png", set: "deck", status: "unchanged", why: [] },
        { path: "hull/hull_color.png", set: "hull", status: "removed", why: [] },
      ],
    });
    page = mounted(CompareDeliveries, { slug: "ferry", before: 3, now: 7 });
    await flushPromises();
    expect(page.findAll("[data-file]")).toHaveLength(2);
    expect(page.get('[data-file="deck/deck_orm.png"]').text()).toContain(
      "Changed: another source, other steps",
    );
    const removed = page.get('[data-file="hull/hull_color.png"]').findAll("img");
    expect(removed.map((each) => each.attributes("src"))).toEqual([
      expect.stringContaining("/deliveries/3/picture"),
    ]);
    await page.get("input[type=checkbox]").trigger("change");
    expect(page.findAll("[data-file]")).toHaveLength(3);
  });
});

describe("the screen of deliveries", () => {
  const done = (number: number, more = {}) => ({
    number,
    target: "orm-y-minus",
    title: "Packs",
    created: "2026-11-23T22:00:00Z",
    by: "ada",
    sets: 1,
    state: "done",
    job: null,
    message: "",
    counts: { new: 1 },
    problems: [],
    folder: `/somewhere/${number}`,
    gone: null,
    mirror: { title: "Reads names", errors: 2, warnings: 0 },
    ...more,
  });
  async function shown(targets: string[] = []) {
    calls = serve({
      "GET /api/projects/ferry": {
        slug: "ferry",
        name: "Ferry",
        target: "orm-y-minus",
        right: "rules",
        keep_days: null,
      },
      "GET /api/projects/ferry/sets": {
        roles: ROLES,
        sets: [aSet([], [], { targets })],
        tiled: [],
        undecided: [],
        undo: null,
        redo: null,
      },
      "GET /api/projects/ferry/targets": [
        { name: "orm-y-minus", title: "Packs", green: "down", own: false, outputs: [] },
      ],
      "GET /api/projects/ferry/deliveries": [
        done(7),
        done(6),
        done(2, { gone: "2026-11-25T10:00:00Z", folder: null }),
      ],
      "GET /api/projects/ferry/destinations": [place({ holds: 7 })],
      "GET /api/projects/ferry/jobs": [],
      "GET /api/projects/ferry/deliveries/compare": [],
      "POST /api/projects/ferry/deliveries/plan": {
        target: "orm-y-minus",
        files: [],
        orphaned: [],
        problems: [],
        carried: ["hull"],
      },
      "POST /api/projects/ferry/deliveries/all": [done(8), done(9)],
      "POST /api/projects/ferry/destinations/2/bring": transfer({ state: "waiting" }),
      "PUT /api/projects/ferry/keeping": {},
    });
    page = mounted(DeliveriesScreen, { slug: "ferry" });
    for (let round = 0; round < 6; round++) await flushPromises();
  }
  const past = (number: number) => page.get(`[data-delivery="${number}"]`);

  it("says where each delivery lies, and brings an older one back", async () => {
    await shown();
    expect(past(7).get("[data-test=lies-at]").text()).toBe("Lies at Art");
    await choose(past(6) as never, "Bring to", "Art");
    expect(sent("POST", "/bring")).toEqual([{ delivery: 6, choices: {} }]);
  });

  it("compares two in the place of the plan, and goes back to it", async () => {
    await shown();
    await choose(past(7) as never, "Compare with", "#6");
    await flushPromises();
    expect(page.get("section[aria-label='#6 and #7']").text()).toContain("Nothing changed between the two.");
    await button(page, "Back to the plan").trigger("click");
    expect(page.text()).toContain("1 other set stays as it was delivered.");
  });

  it("tells of files that were taken away, and keeps them as long as is said", async () => {
    await shown();
    expect(past(2).text()).toContain("Its files were taken away");
    expect(past(2).findAll("a")).toEqual([]);
  });

  it("delivers for all targets where sets have several", async () => {
    await shown();
    expect(page.text()).not.toContain("Deliver to all targets");
    leave(page);
    standInForBrowser();
    await shown(["orm-y-minus", "gltf"]);
    await button(page, "Deliver to all targets").trigger("click");
    await flushPromises();
    expect(sent("POST", "/deliveries/all")).toEqual([{ sets: [1] }]);
  });
});

describe("targets of sets", () => {
  it("begin with what all of them have, and are assigned at once", async () => {
    calls = serve({ "PUT /api/projects/ferry/sets/targets": [aSet([])] });
    const sets = [
      aSet([], [], { id: 1, targets: ["open", "sheltered"] }),
      aSet([], [], { id: 2, targets: ["sheltered"], revision: 3 }),
    ];
    const targets = ["open", "sheltered"].map((name) => ({ name, title: name }));
    page = mounted(TargetsOfSets, { slug: "ferry", sets, targets });
    await page.findAll("input[type=checkbox]")[0]!.trigger("change");
    await page.get("form").trigger("submit");
    await flushPromises();
    expect(sent("PUT", "/sets/targets")).toEqual([
      { sets: [1, 2], targets: ["sheltered", "open"], seen: { 1: 1, 2: 3 } },
    ]);
    expect(page.emitted("done")).toHaveLength(1);
  });
});
