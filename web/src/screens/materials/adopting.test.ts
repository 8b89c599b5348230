import { flushPromises } from "@vue/test-utils";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

import { clash, forgetChanges } from "@/api/conflicts";
import type { Adoption } from "@/api/materials";
import PeoplePart from "@/screens/rules/PeoplePart.vue";
import { button, choose, mounted, Newer, serve } from "@/tests/mounting";

import UpdateView from "./UpdateView.vue";

beforeEach(forgetChanges);
afterEach(() => vi.unstubAllGlobals());

const adoption = {
  master: "solid",
  title: "Solid",
  number: "1.0.0",
  newest: "2.0.0",
  update_available: true,
  pinned: false,
  casts: 2,
  revision: 4,
} as unknown as Adoption;
const told = { number: "2.0.0", before: "1.0.0", changes: [], casts: [] };

describe("an update, while somebody else updates to another version", () => {
  async function asked(answer: boolean) {
    const now = { master: "solid", number: "1.5.0", pinned: true, revision: 5 };
    const sent: (string | null)[] = [];
    serve({
      "POST /api/projects/ferry/materials/masters/solid/impact": told,
      "PUT /api/projects/ferry/materials/masters/solid": (_: unknown, seen: string | null) => {
        sent.push(seen);
        return seen === "5" ? told : new Newer(now);
      },
    });
    const shown = mounted(UpdateView, { slug: "ferry", adoption, mayRule: true });
    await flushPromises();
    await button(shown, "Update 2 casts").trigger("click");
    await expect.poll(() => clash.value?.theirs).toBe("version 1.5.0, pinned");
    expect(clash.value!.mine).toBe("version 2.0.0");
    clash.value!.decide(answer);
    await flushPromises();
    await flushPromises();
    return { sent, done: shown.emitted("done") };
  }

  it("shows both, and goes on when it is told to", async () => {
    const { sent, done } = await asked(true);
    expect(sent).toEqual(["4", "5"]);
    expect(done).toHaveLength(1);
  });

  it("leaves theirs when it is told to", async () => {
    expect(await asked(false)).toEqual({ sent: ["4"], done: undefined });
  });
});

describe("a member's right that somebody else changed", () => {
  it("is shown in words beside the own wish", async () => {
    const cleo = { name: "cleo", right: "look", revision: 1 };
    serve({
      "GET /api/projects/ferry/members": [cleo],
      "GET /api/projects/ferry/log": [],
      "PUT /api/projects/ferry/members/cleo": () => new Newer({ ...cleo, right: "rules", revision: 2 }),
    });
    const shown = mounted(PeoplePart, {
      slug: "ferry",
      mayRule: true,
      mayPrepare: true,
      project: { right: "manage" },
    });
    await flushPromises();
    await choose(shown, "Right of cleo", "Prepare and deliver");
    await expect.poll(() => clash.value?.theirs).toBe("Set the rules");
    expect(clash.value!.mine).toBe("Prepare and deliver");
  });
});
