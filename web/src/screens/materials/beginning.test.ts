import { DOMWrapper, flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import { mounted, serve, until } from "@/tests/mounting";

import NewMasterDialog from "./NewMasterDialog.vue";

afterEach(() => {
  vi.unstubAllGlobals();
  document.body.innerHTML = "";
});

const cost = { reads: 3, samplers: 3, arithmetic: 21, variants: 1 };
const PLAIN = { name: "solid-packed", title: "Solid, packed maps", help: "Plain.", cost };
const READY = [
  PLAIN,
  { name: "snow-by-up", title: "Snow by what looks up", help: "Any solid with snow.", cost },
];

const body = () => new DOMWrapper(document.body);

describe("a new master", () => {
  async function shown() {
    serve({ "GET /api/masters/ready": READY });
    const dialog = mounted(NewMasterDialog, {});
    await until(() => expect(body().find('[data-ready="snow-by-up"]').exists()).toBe(true));
    return dialog;
  }
  const name = () => body().get("input[maxlength='80']").element as HTMLInputElement;

  it("begins as a ready-made one, told with its use and its cost, under its name until another is written", async () => {
    const dialog = await shown();
    const option = body().get('[data-ready="snow-by-up"]');
    expect(option.text()).toContain("Any solid with snow.");
    expect(option.text()).toContain("3 reads, 21 steps");
    await option.trigger("click");
    await until(() => expect(name().value).toBe("Snow by what looks up"));
    await body().get("form").trigger("submit");
    expect(dialog.emitted("make")).toEqual([["Snow by what looks up", "snow-by-up"]]);
  });

  it("stays what is chosen when that is chosen again, and takes its name", async () => {
    await shown();
    await body().get('[data-ready="solid-packed"]').trigger("click");
    await until(() => expect(name().value).toBe("Solid, packed maps"));
    expect(body().findAll("[aria-selected=true]")).toHaveLength(1);
  });

  it("is the plainest where nothing is chosen, and has to have a name", async () => {
    const dialog = await shown();
    await body().get("form").trigger("submit");
    expect(dialog.emitted("make")).toBeUndefined();
    await body().get("input[maxlength='80']").setValue("Wall");
    await body().get("form").trigger("submit");
    await flushPromises();
    expect(dialog.emitted("make")).toEqual([["Wall", "solid-packed"]]);
  });
});
