import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, expect, it, vi } from "vitest";

import { forgetSession } from "@/api/session";
import { button, leave, mounted, serve, standInForBrowser, until } from "@/tests/mounting";

import SignIn from "./SignIn.vue";

let page: ReturnType<typeof mounted>;
const assign = vi.fn();
beforeEach(() => {
  standInForBrowser();
  forgetSession();
  vi.stubGlobal("location", { ...window.location, assign });
  assign.mockClear();
});
afterEach(() => leave(page));
const nobody = (more = {}) => ({ name: null, csrf: "x", elsewhere: "", ...more });

it("goes to the provider that the administrator has set, and nowhere without one", async () => {
  const calls = serve({
    "GET /api/session": nobody({ elsewhere: "Harbour sign-in" }),
    "POST /api/session/elsewhere": { address: "https://id.example/authorize?state=1" },
  });
  page = mounted(SignIn, {}, "/sign-in?next=/p/ferry/sets");
  await until(() => expect(page.text()).toContain("Use Harbour sign-in"));
  await button(page, "Use Harbour sign-in").trigger("click");
  await until(() => expect(assign).toHaveBeenCalledWith("https://id.example/authorize?state=1"));
  expect(calls.some((one) => one.method === "POST")).toBe(true);
  leave(page);
  forgetSession();
  serve({ "GET /api/session": nobody() });
  page = mounted(SignIn, {}, "/sign-in");
  await flushPromises();
  expect(page.text()).not.toContain("Use ");
});

it("comes back with a code to where one was going, and never to another site", async () => {
  serve({
    "GET /api/session": nobody({ elsewhere: "Harbour" }),
    "POST /api/session/elsewhere/back": { name: "mira", csrf: "y" },
  });
  sessionStorage.setItem("fair-texel-next", "//evil.example");
  page = mounted(SignIn, {}, "/sign-in?code=abc&state=def");
  await until(() => expect(assign).toHaveBeenCalledWith("/"));
});

it("tells why a sign-in was refused there", async () => {
  serve({ "GET /api/session": nobody() });
  page = mounted(SignIn, {}, "/sign-in?error=access_denied");
  await until(() => expect(page.text()).toContain("refused there"));
});
