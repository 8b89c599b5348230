import { describe, expect, it } from "vitest";

import { messageOf } from "./client";
import { stepOf, stepsOf } from "./recipes";
import type { TextureMap } from "./types";

describe("messages of errors", () => {
  it("are the server's sentence, or say what is wrong with which field", () => {
    expect(messageOf({ detail: "rope.png: cut off" }, 422)).toBe("rope.png: cut off");
    expect(messageOf({ detail: [{ loc: ["body", "name"], msg: "Field required" }] }, 422)).toBe(
      "name: Field required",
    );
    expect(messageOf(null, 500)).toBe("The server answered 500.");
    expect(messageOf(null, 0)).toBe("The server does not answer.");
  });
});

describe("recipe steps", () => {
  it("are sent back without what is only for people", () => {
    expect(stepOf({ step: "resize", width: 8, height: 4, label: "Resize to 8 x 4" })).toEqual({
      step: "resize",
      width: 8,
      height: 4,
    });
    const map = { recipe: [{ step: "resize", label: "Resize", options: { width: 8, height: 4 } }] };
    expect(stepsOf(map as unknown as TextureMap)).toEqual([{ step: "resize", width: 8, height: 4 }]);
  });
});
