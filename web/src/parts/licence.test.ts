import { focusManager } from "@tanstack/vue-query";
import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import { aSet, button, mounted, ROLES, serve } from "@/tests/mounting";

import LicenceInput from "./LicenceInput.vue";

afterEach(() => vi.unstubAllGlobals());
const setList = (licence: string, revision: number) => ({
  roles: ROLES,
  sets: [aSet([], [], { id: 2, name: "mud", licence, revision })],
  tiled: [],
  undecided: [],
  undo: null,
  redo: null,
});

/** The list of sets is read again, as after every change of anybody. */
async function readAgain(): Promise<void> {
  focusManager.setFocused(false);
  focusManager.setFocused(true);
  await flushPromises();
}

describe("the licence of sets", () => {
  it("keeps what is being typed when the list is read again, with or without another licence", async () => {
    const answers = { "GET /api/projects/ferry/sets": setList("", 1) };
    const calls = serve(answers);
    const form = mounted(LicenceInput, { slug: "ferry", sets: [2] });
    await flushPromises();
    await form.get("input").setValue("LicenseRef-loan");
    for (const licence of ["", "CC0-1.0"]) {
      answers["GET /api/projects/ferry/sets"] = setList(licence, 2);
      await readAgain();
      expect(form.get("input").element.value).toBe("LicenseRef-loan");
    }
    await form.get("form").trigger("submit");
    await flushPromises();
    expect(calls.find((one) => one.method === "PUT")!.body).toMatchObject({ licence: "LicenseRef-loan" });
  });

  it("follows what others set as long as nothing is typed, and the sets that are selected", async () => {
    const answers = { "GET /api/projects/ferry/sets": setList("MIT", 1) };
    serve(answers);
    const form = mounted(LicenceInput, { slug: "ferry", sets: [2] });
    await flushPromises();
    expect(form.get("input").element.value).toBe("MIT");
    answers["GET /api/projects/ferry/sets"] = setList("CC0-1.0", 2);
    await readAgain();
    expect(form.get("input").element.value).toBe("CC0-1.0");
    await form.setProps({ sets: [] });
    expect(button(form, "Set licence").attributes("disabled")).toBeDefined();
  });
});
