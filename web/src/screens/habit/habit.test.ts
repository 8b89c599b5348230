import { flushPromises } from "@vue/test-utils";
import { describe, expect, it } from "vitest";

import type { HabitLine } from "@/api/types";
import SameForSiblings from "@/screens/sets/SameForSiblings.vue";
import UndecidedGroup from "@/screens/sets/UndecidedGroup.vue";
import { aMap, anUndecided, mounted, ROLES, serve } from "@/tests/mounting";

import HabitRow from "./HabitRow.vue";
import HabitScreen from "./HabitScreen.vue";
import { inOrder, meaningsOf, stateOf, suffixName } from "./meanings";
import PackChannels from "./PackChannels.vue";

const BASE = "/api/projects/ferry";

function aLine(more: Partial<HabitLine> = {}): HabitLine {
  return {
    suffix: "nm",
    where: "end",
    folder: "",
    written: "_nm",
    role: "normal",
    channels: {},
    meaning: "normal",
    files: 3,
    confidence: 0.99,
    why: "all 3 files hold vectors",
    said: [],
    taught: false,
    decided: true,
    certain: true,
    examples: [aMap("normal")],
    ...more,
  };
}
const guess = aLine({ suffix: "s", written: "_s", role: "specular", confidence: 0.7, certain: false });
const open = aLine({
  suffix: "q",
  written: "_q",
  role: "roughness",
  confidence: 0.4,
  decided: false,
  certain: false,
});

function screen(lines: HabitLine[]) {
  const calls = serve({
    [`GET ${BASE}/habit`]: { lines, taught: 0 },
    [`GET ${BASE}/sets`]: { roles: ROLES, sets: [], tiled: [], undecided: [], undo: null, redo: null },
    [`GET ${BASE}`]: { slug: "ferry", name: "Ferry", right: "prepare", target: "orm-y-minus" },
    "GET /api/projects": [],
    [`GET ${BASE}/jobs`]: [],
    [`POST ${BASE}/habit/teach`]: { id: 1, kind: "resort", state: "waiting" },
  });
  return { view: mounted(HabitScreen, { slug: "ferry" }), calls };
}

describe("what file names mean", () => {
  it("puts what wants a word first", () => {
    expect(inOrder([aLine(), guess, open]).map((line) => line.suffix)).toEqual(["q", "s", "nm"]);
    expect([aLine(), guess, open, aLine({ taught: true })].map((line) => stateOf(line).word)).toEqual([
      "sure",
      "guess",
      "undecided",
      "taught",
    ]);
    expect(suffixName({ written: "", suffix: "" })).toBe("no suffix");
  });

  it("says how many are guesses and confirms them all at once", async () => {
    const { view, calls } = screen([aLine(), guess]);
    await flushPromises();
    expect(view.text()).toContain("1 suffix is a guess");
    await view
      .findAll("button")
      .find((one) => one.text() === "Confirm 1 guess")!
      .trigger("click");
    await flushPromises();
    expect(calls.at(-1)!.path === `${BASE}/jobs` || calls.at(-1)!.path.endsWith("teach")).toBe(true);
    expect(calls.find((call) => call.path.endsWith("teach"))!.body).toEqual({
      teach: [{ suffix: "s", where: "end", folder: "", role: "specular", channels: {} }],
      forget: [],
    });
  });

  it("teaches nothing to whoever may only look", async () => {
    const row = mounted(HabitRow, {
      slug: "ferry",
      line: guess,
      roles: ROLES,
      mayChange: false,
      busy: false,
    });
    expect(row.find("[role=combobox]").exists()).toBe(false);
    expect(row.text()).not.toContain("Confirm");
  });

  it("offers every role, packs and no map at all", () => {
    expect(
      meaningsOf(ROLES)
        .slice(-2)
        .map((one) => one.value),
    ).toEqual(["pack", "none"]);
  });

  it("teaches a pack channel by channel, no role twice", async () => {
    const channels = { r: "roughness", g: "roughness" };
    const pack = mounted(PackChannels, { roles: ROLES, channels, name: "_q" });
    expect(pack.text()).toContain("same role");
    await pack.setProps({ channels: { r: "roughness", g: "metallic" } });
    await pack.get("button").trigger("click");
    expect(pack.emitted("teach")![0]).toEqual([{ r: "roughness", g: "metallic" }]);
  });
});

describe("a file that was placed by hand", () => {
  it("offers the same for the others with its suffix", async () => {
    const calls = serve({
      [`GET ${BASE}/habit`]: { lines: [open], taught: 0 },
      [`POST ${BASE}/habit/teach`]: { id: 1, kind: "resort", state: "waiting" },
    });
    const offer = mounted(SameForSiblings, {
      slug: "ferry",
      suffix: "_q",
      role: "roughness",
      tiled: [],
      undecided: [{ ...anUndecided(), suffix: "_q" }],
      roles: ROLES,
    });
    await flushPromises();
    expect(offer.text()).toContain("1 other file with _q roughness");
    await offer.get("button").trigger("click");
    await flushPromises();
    expect(calls.find((call) => call.path.endsWith("teach"))!.body).toMatchObject({
      teach: [{ suffix: "q", role: "roughness" }],
    });
    expect(offer.emitted("done")).toHaveLength(1);
  });
});

describe("undecided files with one suffix", () => {
  it("are decided together", async () => {
    const calls = serve({
      [`GET ${BASE}/habit`]: { lines: [open], taught: 0 },
      [`POST ${BASE}/habit/teach`]: { id: 1, kind: "resort", state: "waiting" },
    });
    const group = mounted(UndecidedGroup, {
      slug: "ferry",
      suffix: "_q",
      files: [anUndecided(), anUndecided()],
      roles: ROLES,
      mayChange: true,
    });
    await flushPromises();
    await group
      .findAll("button")
      .find((one) => one.text() === "All are base colour")!
      .trigger("click");
    await flushPromises();
    expect(calls.find((call) => call.path.endsWith("teach"))!.body).toEqual({
      teach: [{ suffix: "q", role: "base_color", where: "end", folder: "", channels: {} }],
      forget: [],
    });
  });
});
