import { DOMWrapper } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { WHOLE } from "@/api/tileable";
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

import TileableDialog from "./TileableDialog.vue";
import TiledPicture from "./TiledPicture.vue";

let page: ReturnType<typeof mounted>;
let calls: ReturnType<typeof serve>;
beforeEach(() => {
  standInForBrowser();
  vi.spyOn(URL, "createObjectURL").mockReturnValue("blob:picture");
  vi.spyOn(URL, "revokeObjectURL").mockReturnValue();
});
afterEach(() => leave(page));
const picture = (seam: number) => () =>
  new Response(new Uint8Array(4), {
    headers: {
      "X-Texel-Seam-X": String(seam),
      "X-Texel-Seam-Y": "0.5",
      "X-Texel-Seam-Limit": "1.35",
      "X-Texel-Width": "512",
      "X-Texel-Height": "512",
    },
  });
const KINDS = [
  {
    step: "patch_borders",
    options: [
      { name: "width", default: 0.15, low: 0.02, high: 0.25 },
      { name: "axes", values: { both: "All borders", x: "Left and right" } },
    ],
  },
  { step: "even_light", options: [{ name: "reach", default: 0.2, low: 0.02, high: 0.5 }] },
];
const PREVIEW = "GET /api/projects/ferry/sets/1/tileable/preview";
const MAKE = "POST /api/projects/ferry/sets/1/tileable";

function opened(preview: unknown = picture(4)): void {
  calls = serve({ [PREVIEW]: preview, [MAKE]: { maps: 2 } });
  page = mounted(TileableDialog, {
    slug: "ferry",
    set: aSet([aMap("base_color"), aMap("roughness", { id: 2 })]),
    map: 2,
    roles: ROLES,
    kinds: KINDS,
    shown: true,
  });
}
// Dialogs are drawn at the end of the document.
const drawn = () => new DOMWrapper(document.body);
const buttonOf = (label: string) => button({ findAll: drawn().findAll.bind(drawn()) } as never, label);
const asked = () => calls.filter((one) => one.method === "GET").map((one) => new URLSearchParams(one.query));

describe("a set made tileable", () => {
  it("shows before and after, and begins with the base colour", async () => {
    opened();
    await until(() => expect(drawn().text()).toContain("Seam shows: 4.00 across, 0.50 down"));
    expect(asked().map((one) => [one.get("guide"), one.get("borders")])).toEqual([
      ["1", "leave"],
      ["1", "patch"],
    ]);
  });

  it("follows what is chosen", async () => {
    opened();
    await until(() => choose(page, "Decided by", "Roughness"));
    await choose(page, "Borders", "Fade into itself");
    await until(() => expect(asked().at(-1)?.get("borders")).toBe("fade"));
    await until(() => expect(asked().filter((one) => one.get("guide") === "2").length).toBeGreaterThan(1));
    // What it was before is drawn once for each map, whatever else is chosen.
    expect(asked().filter((one) => one.get("borders") === "leave").length).toBeLessThanOrEqual(2);
  });

  it("moves a corner by the arrow keys, the others with it", async () => {
    opened();
    await until(() => buttonOf("Upper left corner: 0 % from the left, 0 % from above"));
    const corner = buttonOf("Upper left corner: 0 % from the left, 0 % from above");
    await corner.trigger("keydown", { key: "ArrowRight", shiftKey: true });
    await until(() => expect(asked().at(-1)?.getAll("corners")).toEqual("0.05 0 1 0 1 1 0.05 1".split(" ")));
    await buttonOf("Whole picture").trigger("click");
    await until(() => expect(asked().at(-1)?.getAll("corners")).toEqual(WHOLE.map(String)));
  });

  it("is done on all maps, and closes", async () => {
    opened();
    await until(() => expect(buttonOf("Apply to all maps").attributes("disabled")).toBeUndefined());
    await buttonOf("Apply to all maps").trigger("click");
    await until(() => expect(page.emitted("update:shown")).toEqual([[false]]));
    const sent = calls.find((one) => one.method === "POST")!.body;
    expect(sent).toMatchObject({ width: 0.15, reach: 0.2 });
    expect(sent).toMatchObject({ guide: 1, borders: "patch", corners: WHOLE });
  });

  it("says what cannot be done, and offers it no longer", async () => {
    opened(() => new Response(JSON.stringify({ detail: "the corners cross" }), { status: 422 }));
    await until(() => expect(drawn().text()).toContain("the corners cross"));
    expect(buttonOf("Apply to all maps").attributes("disabled")).toBeDefined();
  });
});

it("a picture whose borders meet is told as such", () => {
  page = mounted(TiledPicture, {
    title: "After",
    tried: { url: "blob:x", seam: [0.6, 0.7], limit: 1.35, whole: [512, 256] },
    tiles: 4,
    waiting: false,
    problem: "",
  });
  expect(page.text()).toContain("No seam: 0.60 across, 0.70 down");
  expect(page.get("[role=img]").attributes("aria-label")).toBe("After: 16 tiles");
});
