import { flushPromises } from "@vue/test-utils";
import SelectButton from "primevue/selectbutton";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import { forgetChanges } from "@/api/conflicts";
import type { Destination, Drift } from "@/api/destinations";
import { button, leave, mounted, Newer, serve, standInForBrowser } from "@/tests/mounting";

import DestinationForm from "./DestinationForm.vue";
import DestinationList from "./DestinationList.vue";
import DriftView from "./DriftView.vue";
import { aPlace as place, aTransfer as transfer } from "@/tests/places";
import { standing } from "./standing";

let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
beforeEach(standInForBrowser);
afterEach(() => {
  forgetChanges();
  leave(page);
});
const sent = (method: string, ending: string) =>
  calls.filter((one) => one.method === method && one.path.endsWith(ending)).map((one) => one.body);

describe("how a destination stands", () => {
  it.each([
    [place(), "Holds #6, the newest is #7", false],
    [place({ holds: 7 }), "Holds #7, the newest", false],
    [place({ holds: null }), "Nothing lies there yet", false],
    [place({ problem: "art is outside" }), "art is outside", true],
    [place({ last: transfer({ state: "running" }) }), "#7 is on its way", false],
    [place({ last: transfer({ state: "failed", message: "no room left" }) }), "no room left", true],
    [place({ last: transfer({ state: "failed", drift: 1 }) }), "Others changed 1 file there", true],
  ])("is said in words", (one, words, bad) => {
    expect(standing(one).words).toContain(words);
    expect(standing(one).bad).toBe(bad);
    page = mounted({ render: () => null });
  });
});

describe("the destinations of a target", () => {
  async function shown(rows: Destination[], more: Record<string, unknown> = {}) {
    calls = serve({
      "GET /api/projects/ferry/destinations": rows,
      "GET /api/projects/ferry/destinations/allowed": { folders: ["/srv/engine"], buckets: [] },
    });
    page = mounted(DestinationList, {
      slug: "ferry",
      target: "orm-y-minus",
      mayRule: true,
      modelValue: [],
      ...more,
    });
    await flushPromises();
  }

  it("are ticked where something was delivered before", async () => {
    await shown([
      place(),
      place({ id: 3, name: "New", holds: null }),
      place({ id: 4, name: "Away", problem: "gone" }),
      place({ id: 5, name: "Other", target: "gltf" }),
    ]);
    expect(page.emitted("update:modelValue")!.at(-1)).toEqual([[2]]);
    expect(page.findAll("[data-destination]").map((one) => one.attributes("data-destination"))).toEqual([
      "Art",
      "New",
      "Away",
    ]);
  });

  it("are explained where there is none, and added by those who set rules alone", async () => {
    await shown([]);
    expect(page.text()).toContain("a destination is a place outside");
    leave(page);
    standInForBrowser();
    await shown([place()], { mayRule: false });
    expect(page.text()).not.toContain("Add");
  });
});

describe("a place that is named", () => {
  const changes = () => import("@/api/destinations").then((api) => api.useDestinationChanges);
  /** The form in a component that has the changes, as the list does. */
  async function shown(destination: Destination | null, answers: Record<string, unknown>) {
    calls = serve({
      "GET /api/projects/ferry/destinations/allowed": { folders: ["/srv/engine"], buckets: ["art"] },
      ...answers,
    });
    const use = await changes();
    const { h } = await import("vue");
    page = mounted({
      setup() {
        const made = use(() => "ferry");
        return () => h(DestinationForm, { slug: "ferry", target: "orm-y-minus", destination, changes: made });
      },
    });
    await flushPromises();
  }

  it("is a folder below one of those that the server allows, or a bucket", async () => {
    await shown(null, { "POST /api/projects/ferry/destinations": place() });
    expect(page.text()).toContain("A path below /srv/engine");
    await page.findAll("input")[0]!.setValue("Art");
    page.findComponent(SelectButton).vm.$emit("update:modelValue", "bucket");
    await flushPromises();
    expect(page.text()).toContain("Buckets: art");
    await page.findAll("input").at(-1)!.setValue("art/ferry");
    await page.get("form").trigger("submit");
    await flushPromises();
    expect(sent("POST", "/destinations")).toEqual([
      { name: "Art", kind: "bucket", place: "art/ferry", target: "orm-y-minus" },
    ]);
  });

  it("that somebody else changed meanwhile is not overwritten unseen", async () => {
    const seen: (string | null)[] = [];
    await shown(place(), {
      "PATCH /api/projects/ferry/destinations/2": (_: unknown, revision: string | null) => {
        seen.push(revision);
        return new Newer(place({ place: "elsewhere", revision: 4 }));
      },
    });
    await page.findAll("input")[0]!.setValue("Mine");
    await page.get("form").trigger("submit");
    await flushPromises();
    expect(seen).toEqual(["1"]);
  });
});

describe("drift", () => {
  const drift = (path: string, kind: Drift["kind"], asks = true): Drift => ({
    path,
    kind,
    digest: kind === "missing" ? null : "d".repeat(64),
    bytes: 10,
    asks,
    set: "deck",
  });
  const FILES = [
    drift("deck/deck_orm.png", "changed"),
    drift("deck/deck.settings.json", "in_the_way"),
    drift("deck/deck_color.png", "missing", false),
    drift("deck/mask.png", "added", false),
  ];
  async function shown(files = FILES) {
    calls = serve({
      "GET /api/projects/ferry/destinations/2/drift": files,
      "POST /api/projects/ferry/destinations/2/take": { intake: 8 },
      "POST /api/projects/ferry/destinations/2/bring": transfer({ state: "waiting" }),
    });
    page = mounted(DriftView, { slug: "ferry", destination: place(), mayChange: true });
    await flushPromises();
  }
  const one = (path: string) => page.get(`[data-file="${path}"]`);
  async function choice(path: string, label: string) {
    const all = page.findAllComponents(SelectButton);
    const field = all.find((each) => each.attributes("aria-label") === `What to do with ${path}`)!;
    const options = field.props("options") as { label: string; value: string }[];
    field.vm.$emit("update:modelValue", options.find((each) => each.label === label)!.value);
    await flushPromises();
  }

  it("shows ours beside theirs where both are pictures", async () => {
    await shown();
    const urls = one("deck/deck_orm.png")
      .findAll("img")
      .map((each) => each.attributes("src"));
    expect(urls[0]).toContain("/deliveries/6/picture?path=deck%2Fdeck_orm.png");
    expect(urls[1]).toContain("/destinations/2/picture?path=deck%2Fdeck_orm.png");
    expect(one("deck/deck.settings.json").findAll("img")).toEqual([]);
    expect(one("deck/mask.png").text()).toContain("Added by others; it is left alone");
  });

  it("brings nothing while a file waits for a choice", async () => {
    await shown();
    expect(page.text()).toContain("2 files wait for a choice");
    expect(button(page, "Bring delivery #7").attributes("disabled")).toBeDefined();
    await button(page, "Overwrite all").trigger("click");
    await button(page, "Bring delivery #7").trigger("click");
    await flushPromises();
    const choices = { "deck/deck_orm.png": "overwrite", "deck/deck.settings.json": "overwrite" };
    expect(sent("POST", "/bring")).toEqual([{ delivery: 7, choices }]);
    expect(page.emitted("done")).toHaveLength(1);
  });

  it("takes theirs in as sources first, and then leaves them where they lie", async () => {
    await shown();
    await choice("deck/deck_orm.png", "Take in");
    await choice("deck/deck.settings.json", "Keep");
    await choice("deck/mask.png", "Take in");
    await choice("deck/deck_color.png", "Leave away");
    await button(page, "Bring delivery #7").trigger("click");
    await flushPromises();
    expect(sent("POST", "/take")).toEqual([{ paths: ["deck/deck_orm.png", "deck/mask.png"] }]);
    expect((sent("POST", "/bring")[0] as { choices: Record<string, string> }).choices).toEqual({
      "deck/deck_orm.png": "keep",
      "deck/deck.settings.json": "keep",
      "deck/mask.png": "keep",
      "deck/deck_color.png": "keep",
    });
  });

  it("says so where nothing was changed", async () => {
    await shown([]);
    expect(page.text()).toContain("Nothing was changed there");
  });
});
