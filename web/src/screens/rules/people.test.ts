import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import MasterKeepers from "@/screens/materials/MasterKeepers.vue";
import { mounted, serve } from "@/tests/mounting";

import PeoplePart from "./PeoplePart.vue";

afterEach(() => vi.unstubAllGlobals());

const BASE = "/api/projects/ferry";
const MEMBERS = [
  { name: "ada", right: "rules", revision: 1 },
  { name: "bram", right: "look", revision: 4 },
];
const LOG = [
  { event: "right changed", name: "ada", about: "bram Look", address: "", at: "2026-01-01T10:00:00Z" },
];

async function part(mayRule: boolean) {
  const calls = serve({
    [`GET ${BASE}/members`]: MEMBERS,
    [`GET ${BASE}/log`]: LOG,
    [`PUT ${BASE}/members/cleo`]: { name: "cleo", right: "look", revision: 1 },
    [`PUT ${BASE}/members/bram`]: { name: "bram", right: "prepare", revision: 5 },
    [`DELETE ${BASE}/members/bram`]: null,
  });
  const shown = mounted(PeoplePart, {
    slug: "ferry",
    project: { right: mayRule ? "manage" : "look" },
    mayRule,
    mayPrepare: true,
  });
  await flushPromises();
  return { calls, shown };
}

describe("the people of a project", () => {
  it("stand with what they may do, and the log with what was noted", async () => {
    const { shown } = await part(true);
    expect(shown.get("[data-test=members]").text()).toContain("bram");
    expect(shown.get("[data-test=log]").text()).toContain("bram Look");
  });

  it("are only looked at by those who may not set the rules", async () => {
    const { shown, calls } = await part(false);
    expect(shown.text()).toContain("Look");
    expect(shown.find("[aria-label='Remove bram']").exists()).toBe(false);
    expect(calls.some((one) => one.path.endsWith("/log"))).toBe(false);
  });

  it("are added by name, and removed", async () => {
    const { shown, calls } = await part(true);
    await shown.get("[aria-label='Account name']").setValue("cleo");
    await shown.get("form").trigger("submit");
    await flushPromises();
    expect(calls.find((one) => one.method === "PUT")).toMatchObject({
      path: `${BASE}/members/cleo`,
      body: { right: "look" },
    });
    await shown.get("[aria-label='Remove bram']").trigger("click");
    await flushPromises();
    expect(calls.find((one) => one.method === "DELETE")?.path).toBe(`${BASE}/members/bram`);
  });
});

describe("the keepers of a master", () => {
  const master = (more: object) => ({ keepers: ["ada", "iris"], may_write: true, ...more });

  it("are added and removed by keepers", async () => {
    const shown = mounted(MasterKeepers, { master: master({}), busy: false });
    await shown.get("input").setValue("bram");
    await shown.get("form").trigger("submit");
    expect(shown.emitted("add")).toEqual([["bram"]]);
    await shown
      .findAll("[data-pc-name=chip] [role=button], [data-pc-section=removeicon]")[0]!
      .trigger("click");
    expect(shown.emitted("remove")).toEqual([["ada"]]);
  });

  it("are read by everybody else, and the last one stays", () => {
    const shown = mounted(MasterKeepers, { master: master({ may_write: false }), busy: false });
    expect(shown.find("form").exists()).toBe(false);
    expect(shown.text()).toContain("only its keepers may change it");
    const last = mounted(MasterKeepers, { master: master({ keepers: ["ada"] }), busy: false });
    expect(last.find("[data-pc-section=removeicon]").exists()).toBe(false);
    const none = mounted(MasterKeepers, { master: master({ keepers: [] }), busy: false });
    expect(none.text()).toContain("the administrators");
  });
});
