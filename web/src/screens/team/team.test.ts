import { DOMWrapper, flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { forgetSession } from "@/api/session";
import { button, choose, mounted, serve, standInForBrowser, until } from "@/tests/mounting";

import WebhooksPart from "@/screens/rules/WebhooksPart.vue";
import AccountsScreen from "./AccountsScreen.vue";
import HandOver from "./HandOver.vue";
import InvitationList from "./InvitationList.vue";
import InvitationScreen from "./InvitationScreen.vue";
import NewPasswordScreen from "./NewPasswordScreen.vue";
import ServerScreen from "./ServerScreen.vue";
import SessionList from "./SessionList.vue";

const seen = (holds: () => boolean) => until(() => expect(holds()).toBe(true));
const BASE = "/api/projects/ferry";
const UNTIL = "2026-12-06T10:00:00Z";
beforeEach(() => {
  standInForBrowser();
  forgetSession();
});
afterEach(() => {
  document.body.innerHTML = "";
  vi.unstubAllGlobals();
  window.location.hash = "";
});

describe("invitations", () => {
  it("are made with a right, shown once and taken back", async () => {
    const calls = serve({
      [`GET ${BASE}/invitations`]: [
        { id: 4, right: "look", about: "Cleo", by: "ada", created: UNTIL, until: UNTIL },
      ],
      [`POST ${BASE}/invitations`]: { secret: "s3", path: "/invitation#s3", until: UNTIL },
      [`DELETE ${BASE}/invitations/4`]: null,
    });
    const shown = mounted(InvitationList, { slug: "ferry" });
    await seen(() => shown.text().includes("Cleo"));
    await shown.get("form").trigger("submit");
    await seen(() => shown.find("[data-test=link]").exists());
    expect(shown.get("[data-test=link]").text()).toContain("/invitation#s3");
    expect(calls.find((one) => one.method === "POST")?.body).toEqual({
      right: "prepare",
      days: 7,
      about: "",
    });
    await shown.get("[aria-label='Take back: Cleo']").trigger("click");
    await seen(() => calls.some((one) => one.method === "DELETE"));
  });

  it("say what they are for; a newcomer joins with a name and a password", async () => {
    const gone = vi.fn();
    vi.stubGlobal("location", { ...window.location, hash: "#s3", assign: gone });
    const calls = serve({
      "GET /api/session": { name: null, csrf: "x", administrator: false, keeps_library: false },
      "POST /api/invitations/look": { project: "Ferry", right: "look", by: "ada", until: UNTIL },
      "POST /api/invitations/take": { slug: "ferry" },
    });
    const shown = mounted(InvitationScreen);
    await seen(() => shown.text().includes("Join Ferry"));
    expect(shown.text()).toContain("ada invites you: Look");
    await shown.get("#name").setValue("bram");
    await shown.get("#password").setValue("nine gulls over the quay");
    await shown.get("form").trigger("submit");
    await flushPromises();
    expect(calls.at(-1)?.body).toEqual({
      secret: "s3",
      name: "bram",
      password: "nine gulls over the quay",
    });
    expect(gone).toHaveBeenCalledWith("/p/ferry");
  });

  it("that have no link in their address say so", async () => {
    serve({});
    const shown = mounted(InvitationScreen);
    await seen(() => shown.text().includes("The address has no link in it"));
    expect(mounted(NewPasswordScreen).text()).toContain("The address has no link in it");
  });
});

describe("accounts", () => {
  it("get links for new passwords, keep the library, are closed", async () => {
    const bram = {
      name: "bram",
      active: true,
      administrator: false,
      keeps_library: false,
      projects: 2,
      last_sign_in: null,
      has_password: false,
    };
    const calls = serve({
      "GET /api/people": [bram],
      "POST /api/people/bram/reset": { secret: "s", path: "/new-password#s", until: UNTIL },
      "PATCH /api/people/bram": { ...bram, active: false },
      "DELETE /api/people/bram/sessions": { sessions: 2 },
    });
    const shown = mounted(AccountsScreen);
    await seen(() => shown.text().includes("bram"));
    expect(shown.text()).toContain("no password yet");
    await shown.get("[aria-label='Link for a new password: bram']").trigger("click");
    await seen(() => shown.find("[data-test=link]").exists());
    await shown.get("[aria-label='Close account: bram']").trigger("click");
    await seen(() => calls.some((one) => one.method === "PATCH"));
    expect(calls.find((one) => one.method === "PATCH")?.body).toEqual({ active: false });
    await shown.get("[aria-label='Sign out everywhere: bram']").trigger("click");
    await seen(() => calls.some((one) => one.method === "DELETE"));
  });
});

it("a project is handed over to a member, and one leaves it or stays", async () => {
  const calls = serve({ [`POST ${BASE}/hand-over`]: [] });
  const members = ["ada", "bram"].map((name) => ({ name, right: "manage", revision: 1 }));
  const shown = mounted(HandOver, { slug: "ferry", members, own: "ada", open: true });
  await flushPromises();
  await choose(shown, "To whom", "bram");
  await button(new DOMWrapper(document.body), "Hand over").trigger("click");
  await seen(() => calls.length > 0);
  expect(calls[0]!.body).toEqual({ to: "bram", keep: "prepare" });
});

it("sessions say browser and system, and are ended", async () => {
  const agent = "Mozilla/5.0 (X11; Linux x86_64) Gecko/20100101 Firefox/140.0";
  const one = { address: "192.0.2.1", began: UNTIL, seen: UNTIL };
  const calls = serve({
    "GET /api/sessions": [
      { ...one, id: 1, agent, own: true },
      { ...one, id: 2, agent: "", own: false },
    ],
    "DELETE /api/sessions/2": null,
  });
  const shown = mounted(SessionList);
  await seen(() => shown.text().includes("Firefox, Linux"));
  await shown.get("[aria-label='Sign out there: unknown browser']").trigger("click");
  await seen(() => calls.some((call) => call.path.endsWith("/2")));
});

it("whoever runs the server sees its parts and workers, and tries failed jobs again", async () => {
  const calls = serve({
    "GET /api/server": {
      parts: [{ name: "store", well: false, says: "only 3 MB are left on its disk" }],
      queue: { waiting: 2 },
      workers: [{ id: 4, heard: UNTIL, job: "Deliver 12 sets" }],
      failed: [
        {
          id: 9,
          project: "Ferry",
          kind: "trial",
          title: "Try formats",
          message: "no",
          by: null,
          finished: UNTIL,
          attempts: 3,
        },
      ],
    },
    "POST /api/server/jobs/9/retry": null,
  });
  const shown = mounted(ServerScreen);
  await seen(() => shown.text().includes("Deliver 12 sets"));
  expect(shown.text()).toContain("Something is wrong");
  expect(shown.text()).toContain("2 jobs wait");
  await shown.get("[aria-label='Try again: Try formats']").trigger("click");
  await seen(() => calls.some((one) => one.method === "POST"));
});

it("addresses are told of events: added with a key shown once, their messages looked at and sent again", async () => {
  const hook = {
    id: 3,
    name: "Build",
    address: "https://build.example/",
    events: ["delivery"],
    paused: false,
  };
  const calls = serve({
    [`GET ${BASE}/webhooks`]: [hook],
    [`POST ${BASE}/webhooks`]: { ...hook, key: "signed-with-this" },
    [`GET ${BASE}/webhooks/3/sendings`]: [
      {
        id: 8,
        event: "delivery",
        message: {},
        attempts: 2,
        done: false,
        status: 500,
        answer: "full",
        created: UNTIL,
        tried: UNTIL,
      },
    ],
    [`POST ${BASE}/webhooks/3/sendings/8/again`]: {},
  });
  const shown = mounted(WebhooksPart, { slug: "ferry", project: {}, mayRule: true, mayPrepare: true });
  await seen(() => shown.text().includes("build.example"));
  await shown.get("[aria-label='Messages: Build']").trigger("click");
  await seen(() => shown.text().includes("500 full"));
  await shown.get("[aria-label='Send again: delivery, message 8']").trigger("click");
  await shown.get("[aria-label='Name of the webhook']").setValue("Other");
  await shown.get("[aria-label='Address of the webhook']").setValue("https://x.example");
  await shown.get("form").trigger("submit");
  await seen(() => shown.text().includes("signed-with-this"));
  expect(calls.filter((one) => one.method === "POST").map((one) => one.path)).toEqual([
    `${BASE}/webhooks/3/sendings/8/again`,
    `${BASE}/webhooks`,
  ]);
});
