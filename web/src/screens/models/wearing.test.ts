import { describe, expect, it } from "vitest";

import { model, proposal } from "@/tests/models";
import { choicesFor, sureOf, valueOf, wearsOf } from "./wearing";

describe("what a slot can wear", () => {
  it("is a cast or a set by id, or nothing", () => {
    expect(wearsOf("cast 3")).toEqual({ kind: "cast", id: 3 });
    expect(wearsOf("")).toBeNull();
    expect(valueOf({ kind: "set", id: 4 })).toBe("set 4");
  });

  it("is offered with what its names propose first", () => {
    const groups = choicesFor([proposal()], [{ id: 3, name: "Bell" }], []);
    expect(groups.map((one) => ("group" in one ? one.group : ""))).toEqual([
      "No material",
      "Proposed",
      "Casts",
    ]);
  });

  it("is proposed surely only for slots that wear nothing", () => {
    const proposals = [
      { key: "M_hull", proposals: [proposal()] },
      { key: "rope", proposals: [proposal()] },
    ];
    expect(sureOf(model(), proposals)).toEqual({ M_hull: { kind: "set", id: 5 } });
    expect(sureOf(model(), [{ key: "M_hull", proposals: [proposal({ is_sure: false })] }])).toEqual({});
  });
});
