import { describe, expect, it } from "vitest";

import { timeLeft } from "./timeLeft";

const job = (id: number, done: number, state = "running") => ({ id, state, done, total: 100 });

describe("the time that a job still takes", () => {
  it("is unknown at first, then told from its speed", () => {
    expect(timeLeft(job(1, 10), 0)).toBe("");
    expect(timeLeft(job(1, 30), 10_000)).toBe("about 35 s left");
    expect(timeLeft(job(1, 31), 60_000)).toBe("about 4 min left");
  });

  it("is not told of what waits, stands still or has just begun", () => {
    expect(timeLeft(job(2, 0, "waiting"), 0)).toBe("");
    timeLeft(job(3, 5), 0);
    expect(timeLeft(job(3, 5), 20_000)).toBe("");
    expect(timeLeft(job(3, 6), 500)).toBe("");
  });
});
