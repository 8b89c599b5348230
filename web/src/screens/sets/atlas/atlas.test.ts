import { DOMWrapper } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it } from "vitest";

import { row } from "@/tests/models";
import {
  aMap,
  aSet,
  button,
  choose,
  leave,
  mounted,
  ROLES,
  serve,
  standInForBrowser,
  until,
} from "@/tests/mounting";

import AtlasDialog from "./AtlasDialog.vue";

const PLAN = {
  width: 1024,
  height: 512,
  padding: 8,
  clean: 3,
  used: 0.8,
  cells: [
    { set: 1, name: "deck", x: 8, y: 8, width: 256, height: 256, own: [256, 256] },
    { set: 2, name: "rail", x: 520, y: 8, width: 128, height: 256, own: [512, 1024] },
  ],
  missing: { emissive: ["deck"] },
  moves: [
    { model: "Ferry", slot: "M_hull", set: 1, density: 128.4, problem: "" },
    { model: "Ferry", slot: "rope", set: 2, density: null, problem: "it has no UVs" },
  ],
};
const PLANNED = "POST /api/projects/ferry/atlases/plan";
const MAKE = "POST /api/projects/ferry/atlases";

describe("an atlas", () => {
  let page: ReturnType<typeof mounted>;
  let calls: ReturnType<typeof serve>;
  const body = () => new DOMWrapper(document.body);
  const make = () => button({ findAll: body().findAll.bind(body()) } as never, "Make the atlas");
  const sent = (key: string) =>
    calls.filter((one) => `${one.method} ${one.path}` === key).map((one) => one.body);
  beforeEach(standInForBrowser);
  afterEach(() => leave(page));
  async function open(plan: unknown = PLAN): Promise<void> {
    calls = serve({
      [PLANNED]: plan,
      [MAKE]: { id: 9 },
      "GET /api/projects/ferry/models": [row()],
      "GET /api/catalogue": { atlas: { paddings: [0, 8], largest: 4096 } },
    });
    const sets = [
      aSet([aMap("base_color")]),
      aSet([aMap("base_color", { id: 2 })], [], { id: 2, name: "rail" }),
    ];
    page = mounted(AtlasDialog, { slug: "ferry", sets, roles: ROLES, shown: true });
    await until(() => expect(sent(PLANNED)).not.toEqual([]));
  }

  it("is shown with its cells, what is missing and which slots move", async () => {
    await open();
    await until(() => expect(body().text()).toContain("80 % used"));
    expect(body().text()).toContain("The first 3 mips stay clean");
    expect(body().findAll("[data-test=atlas-picture] .cell")).toHaveLength(2);
    expect(body().text()).toContain("emissive map: deck");
    expect(body().text()).toContain("128 texels a metre");
    expect(body().text()).toContain("stays as it is: it has no UVs");
  });
  it("is planned anew with another size, and made as it was planned", async () => {
    await open();
    await until(() => choose(page, "Size", "2048 × 1024"));
    await until(() => expect(sent(PLANNED).length).toBeGreaterThan(1));
    await until(() => expect(make().attributes("disabled")).toBeUndefined());
    await make().trigger("click");
    await until(() => expect(sent(MAKE)).not.toEqual([]));
    expect(sent(MAKE)[0]).toMatchObject({
      name: "atlas",
      sets: [1, 2],
      side: [2048, 1024],
      padding: 8,
      models: [],
    });
  });
  it("says why it cannot be made", async () => {
    await open(() => new Response(JSON.stringify({ detail: "2 sets do not fit" }), { status: 422 }));
    await until(() => expect(body().text()).toContain("2 sets do not fit"));
    expect(make().attributes("disabled")).toBeDefined();
  });
});
