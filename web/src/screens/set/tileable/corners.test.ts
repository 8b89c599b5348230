import { describe, expect, it } from "vitest";

import { WHOLE } from "@/api/tileable";

import { movedTo, straightened } from "./corners";

describe("corners", () => {
  it("move alone, or keep the part a rectangle", () => {
    expect(movedTo(WHOLE, 0, 0.1, 0.2, false)).toEqual([0.1, 0.2, 1, 0, 1, 1, 0, 1]);
    expect(movedTo(WHOLE, 0, 0.1, 0.2, true)).toEqual([0.1, 0.2, 1, 0.2, 1, 1, 0.1, 1]);
    expect(movedTo(WHOLE, 2, 2, -1, true)).toEqual([0, 0, 1, 0, 1, 0, 0, 0]);
  });

  it("stand straight around what they spanned", () => {
    expect(straightened([0.1, 0.2, 0.9, 0.1, 1, 0.8, 0.2, 0.7])).toEqual([
      0.1, 0.1, 1, 0.1, 1, 0.8, 0.1, 0.8,
    ]);
  });
});
