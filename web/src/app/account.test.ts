import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { nextTick } from "vue";

import { clash } from "@/api/conflicts";
import { mounted, serve, standInForBrowser } from "@/tests/mounting";

import AccountDialog from "./AccountDialog.vue";
import ClashDialog from "./ClashDialog.vue";

// Dialogs are drawn at the end of the document.
const inDocument = (selector: string) => document.querySelector<HTMLElement>(selector)!;
const button = (label: string) =>
  [...document.querySelectorAll<HTMLButtonElement>("button")].find(
    (one) => one.textContent?.trim() === label,
  )!;
async function type(selector: string, text: string): Promise<void> {
  const input = inDocument(selector) as HTMLInputElement;
  input.value = text;
  input.dispatchEvent(new Event("input"));
  await nextTick();
}

let page: ReturnType<typeof mounted>;
beforeEach(() => {
  standInForBrowser();
});
afterEach(() => {
  page.unmount();
  document.body.innerHTML = "";
  vi.unstubAllGlobals();
});

describe("one's account", () => {
  async function opened(answers: Record<string, unknown> = {}) {
    const tokens = [
      { id: 3, name: "nightly", right: "look", created: "2026-01-01T00:00:00Z", until: null, used: null },
    ];
    const calls = serve({
      "GET /api/tokens": tokens,
      "POST /api/tokens": { token: "secret-of-the-token" },
      "DELETE /api/tokens/3": null,
      "PUT /api/password": null,
      "DELETE /api/sessions": { sessions: 2 },
      ...answers,
    });
    page = mounted(AccountDialog, { open: true });
    await flushPromises();
    return calls;
  }

  it("lists tokens, and revokes one", async () => {
    const calls = await opened();
    expect(inDocument("[data-test=tokens]").textContent).toContain("nightly");
    expect(inDocument("[data-test=tokens]").textContent).toContain("ends: never");
    expect(inDocument("[data-test=tokens]").textContent).toContain("Look");
    inDocument("[aria-label='Revoke nightly']").click();
    await flushPromises();
    expect(calls.find((one) => one.method === "DELETE")?.path).toBe("/api/tokens/3");
  });

  it("shows a new token once", async () => {
    const calls = await opened();
    await type("[aria-label='What the token is for']", "build");
    button("Make token").click();
    await flushPromises();
    expect(calls.find((one) => one.method === "POST")?.body).toEqual({
      name: "build",
      days: 365,
      right: "prepare",
    });
    expect(document.body.textContent).toContain("secret-of-the-token");
  });

  it("ends sessions elsewhere", async () => {
    const calls = await opened();
    button("Sign out everywhere else").click();
    await flushPromises();
    expect(calls.some((one) => one.path === "/api/sessions")).toBe(true);
  });
});

describe("a clash", () => {
  it.each([
    ["Use my version", true],
    ["Keep their version", false],
  ])("is decided by %s", async (label, mine) => {
    page = mounted(ClashDialog);
    const decide = vi.fn();
    clash.value = { about: "deck", theirs: "quay", mine: "pier", decide };
    await flushPromises();
    expect(inDocument("[data-test=clash]").textContent).toContain("quay");
    button(label).click();
    expect(decide).toHaveBeenCalledWith(mine);
    clash.value = null;
    await flushPromises();
  });
});
