import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, expect, it } from "vitest";

import { aMap, aSet, choose, leave, mounted, ROLES, serve, standInForBrowser } from "@/tests/mounting";

import TwoTargets from "./TwoTargets.vue";

const output = (target: string) => ({
  output: "orm",
  path: `deck_${target}.png`,
  kind: "map",
  container: "png",
  bits: 8,
  format: null,
  memory: 1 << 20,
  colour_space: "linear",
  width: 512,
  height: 512,
  green: null,
  plan: "p".repeat(64),
  channels: [
    {
      letter: "r",
      role: "occlusion",
      map: 1,
      source_channel: null,
      inverted: false,
      constant: null,
      steps: [],
    },
  ],
});
const TARGETS = [
  { name: "down", title: "Ferry", green: "down" },
  { name: "also-down", title: "Ferry too", green: "down" },
  { name: "up", title: "Orchard", green: "up" },
];
let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
beforeEach(async () => {
  standInForBrowser();
  calls = serve({
    "GET /api/projects/ferry/targets": TARGETS,
    "GET /api/projects/ferry/sets/1/outputs": [output("x")],
  });
  page = mounted(TwoTargets, {
    slug: "ferry",
    set: aSet([aMap("occlusion")]),
    roles: ROLES,
    target: "down",
  });
  await flushPromises();
});
afterEach(() => leave(page));
const asked = () =>
  calls
    .filter((one) => one.path.endsWith("/outputs"))
    .map((one) => new URLSearchParams(one.query).get("target"));

it("a set stands in the target at hand and in one that turns green the other way", () => {
  expect(asked()).toContain("down");
  expect(asked().at(-1)).toBe("up");
  expect(document.body.textContent).toContain("1.00 MiB in all");
  expect(document.body.textContent).toContain("R Occlusion");
});

it("another target is chosen for either side", async () => {
  await choose(page, "Target", "Ferry too");
  await flushPromises();
  expect(asked()).toContain("also-down");
});
