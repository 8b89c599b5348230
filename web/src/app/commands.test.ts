import { describe, expect, it } from "vitest";

import { type Command, ranked } from "./commands";

const of = (kind: string, label: string, detail = ""): Command => ({
  kind,
  label,
  detail,
  run: () => undefined,
});
const ALL = [
  of("Place", "Sets"),
  of("Action", "Undo your last change"),
  of("Set", "slate-pier", "4 maps"),
  of("File", "slate_pier_normal.png", "slate-pier"),
  of("Cast", "Pier", "plain_solid"),
];

describe("the command field", () => {
  it("offers everything until something is typed", () => {
    expect(ranked(ALL, "")).toHaveLength(ALL.length);
  });

  it("puts names that begin with the word first, then words within", () => {
    expect(ranked(ALL, "pier").map((one) => one.label)).toEqual([
      "Pier",
      "slate-pier",
      "slate_pier_normal.png",
    ]);
  });

  it("wants every word, in any order, and takes the kind too", () => {
    expect(ranked(ALL, "normal slate").map((one) => one.kind)).toEqual(["File"]);
    expect(ranked(ALL, "cast").map((one) => one.label)).toEqual(["Pier"]);
    expect(ranked(ALL, "nothing here")).toEqual([]);
  });

  it("takes every sign that somebody types", () => {
    const named = [..."-\\^$.*+?()[]{}|/_ü"].map((sign) => ({
      kind: "Set",
      label: `a${sign}b`,
      run: () => {},
    }));
    for (const one of named) expect(ranked(named, one.label)[0]).toBe(one);
  });
});
