import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it } from "vitest";

import { isLater, made, MANY } from "@/api/later";
import { aSet, button, leave, mounted, serve, until } from "@/tests/mounting";

import ManyProgress from "./ManyProgress.vue";
import TargetsOfSets from "./TargetsOfSets.vue";

const aJob = (state: string, more = {}) => ({
  id: 7,
  kind: "many",
  title: "Licence of 5000 sets",
  state,
  done: 2100,
  total: 5000,
  message: "",
  attempt: 1,
  created: "2026-11-30T09:00:00Z",
  ...more,
});
const ONE = "GET /api/projects/ferry/jobs/7";

describe("a change to many sets", () => {
  it("is asked for as a job from so many sets on", async () => {
    expect(isLater(MANY - 1)).toEqual({});
    const calls = serve({
      "PUT /api/projects/ferry/sets/targets": { job: 7 },
      [ONE]: aJob("done"),
    });
    const sets = Array.from({ length: MANY }, (_, at) => aSet([], [], { id: at + 1, targets: [] }));
    const form = mounted(TargetsOfSets, { slug: "ferry", sets, targets: [{ name: "a", title: "Quay" }] });
    await form.get("form").trigger("submit");
    await until(() => expect(calls.some((one) => one.path.endsWith("/jobs/7"))).toBe(true));
    expect(calls[0]!.query).toContain("later=true");
    leave(form);
  });

  it("is made when its job is done, and says why it was not", async () => {
    const states = ["running", "done"];
    serve({ [ONE]: () => aJob(states.shift()!) });
    expect(await made("ferry", { job: 7 })).toBe(true);
    serve({ [ONE]: aJob("failed", { message: "keel was changed meanwhile by bram." }) });
    await expect(made("ferry", { job: 7 })).rejects.toThrow(
      "changed meanwhile by bram. Nothing was changed.",
    );
    serve({ [ONE]: aJob("cancelled") });
    await expect(made("ferry", { job: 7 })).rejects.toThrow("Licence of 5000 sets: stopped.");
    expect(await made("ferry", { maps: 3 })).toEqual({ maps: 3 });
  });
});

describe("changes at work", () => {
  let bar: ReturnType<typeof mounted>;
  afterEach(() => leave(bar));
  const shown = async (mayChange: boolean) => {
    const calls = serve({
      "GET /api/projects/ferry/jobs": [
        aJob("running"),
        aJob("done", { id: 8 }),
        aJob("running", { kind: "judge" }),
      ],
      "POST /api/projects/ferry/jobs/7/cancel": aJob("cancelled"),
    });
    bar = mounted(ManyProgress, { slug: "ferry", mayChange });
    await flushPromises();
    return calls;
  };

  it("tell how far they are, and are stopped", async () => {
    const calls = await shown(true);
    expect(bar.text()).toContain("Licence of 5000 sets");
    expect(bar.text()).toContain("2100 of 5000");
    expect(bar.findAll("[role=status]")).toHaveLength(1);
    await button(bar, "Stop").trigger("click");
    await until(() => expect(calls.some((one) => one.path.endsWith("/cancel"))).toBe(true));
  });

  it("are stopped by those who may change sets only", async () => {
    await shown(false);
    expect(bar.text()).toContain("2100 of 5000");
    expect(bar.find("button").exists()).toBe(false);
  });
});
