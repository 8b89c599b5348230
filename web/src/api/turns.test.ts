import { describe, expect, it } from "vitest";

import { meantFor, turns } from "./turns";

const shown = { id: 7, revision: 3 };
const after = (now: { id: number; revision: number }) =>
  Promise.resolve({ ...now, revision: now.revision + 1 });

describe("what one hand does to one thing", () => {
  it("is done on top of what the change before made", async () => {
    const inTurn = turns<typeof shown>();
    const [one, two] = await Promise.all([inTurn(shown, after), inTurn(shown, after)]);
    expect([one.revision, two.revision]).toEqual([4, 5]);
  });

  it("goes on after a change that failed", async () => {
    const inTurn = turns<typeof shown>();
    const failed = inTurn(shown, () => Promise.reject(new Error("refused")));
    const next = inTurn(shown, after);
    await expect(failed).rejects.toThrow("refused");
    expect((await next).revision).toBe(4);
  });

  it("takes what the page shows when that is newer", async () => {
    const inTurn = turns<typeof shown>();
    await inTurn(shown, after);
    expect((await inTurn({ id: 7, revision: 9 }, after)).revision).toBe(10);
  });

  it("keeps two things apart", async () => {
    const inTurn = turns<typeof shown>();
    await inTurn(shown, after);
    expect((await inTurn({ id: 8, revision: 1 }, after)).revision).toBe(2);
  });

  it("is meant for one state", () => {
    expect(meantFor(shown)).toBe('"3"');
  });
});
