import { describe, expect, it } from "vitest";

import type { RoleInfo, SetList, TextureSet, TextureMap } from "@/api/types";

import { columnsOf, filtered, rowOf, stateOf, visibleRange } from "./matrix";

function map(role: string, more: Partial<TextureMap> = {}): TextureMap {
  const file = `${role}.png`;
  return {
    id: 1,
    role,
    file,
    came_as: file,
    old_names: [],
    channel: null,
    in_use: true,
    recipe: [],
    worst: null,
    ...more,
  } as TextureMap;
}

function set(name: string, maps: TextureMap[], more: Partial<TextureSet> = {}): TextureSet {
  return {
    id: 1,
    name,
    maps,
    judged: true,
    errors: 0,
    warnings: 0,
    missing: [],
    waived: 0,
    metres: null,
    licence: "",
    credit: "",
    headline: null,
    revision: 1,
    ...more,
  };
}

const roles: RoleInfo[] = [
  "base_color",
  "normal",
  "roughness",
  "metallic",
  "occlusion",
  "height",
  "emissive",
].map((key) => ({ key, label: key, colour: false, scalar: true }));

describe("the sets's matrix", () => {
  it("shows the usual six roles, and others only when used", () => {
    const setList = { roles, sets: [set("a", [])], undecided: [], undo: null, redo: null } as SetList;
    expect(columnsOf(setList)).toHaveLength(6);
    setList.sets[0]!.maps.push(map("emissive"));
    expect(columnsOf(setList)).toHaveLength(7);
  });

  it("joins the cells that one packed file fills", () => {
    const packed = ["roughness", "metallic", "occlusion"].map((role, index) =>
      map(role, { file: "a_rma.png", channel: "rgb"[index]! }),
    );
    const row = rowOf(set("a", packed), roles);
    expect(row.cells.map((cell) => [cell.joinedLeft, cell.joinedRight]).slice(2, 5)).toEqual([
      [false, true],
      [true, true],
      [true, false],
    ]);
  });

  it("counts spares and marks what is missing", () => {
    const row = rowOf(
      set("a", [map("normal"), map("normal", { in_use: false })], { missing: ["base_color"] }),
      roles,
    );
    expect(row.cells[1]!.more).toBe(1);
    expect(row.cells[0]!.missing).toBe(true);
    expect(row.cells[0]!.map).toBeNull();
  });

  it("tells the verdict of a row, worst first", () => {
    expect(stateOf(set("a", [], { judged: false, errors: 1 }))).toBe("judging");
    expect(stateOf(set("a", [], { errors: 1, warnings: 2 }))).toBe("error");
    expect(stateOf(set("a", [], { warnings: 2 }))).toBe("warning");
    expect(stateOf(set("a", []))).toBe("fine");
  });

  it("finds rows by all words, in set and file names", () => {
    const rows = [
      set("Ship bell", [map("normal")]),
      set("rope", [map("height", { old_names: ["Tau_final.png"] })]),
    ].map((one) => rowOf(one, roles));
    expect(filtered(rows, "bell SHIP", "all").map((row) => row.set.name)).toEqual(["Ship bell"]);
    expect(filtered(rows, "height.png", "all").map((row) => row.set.name)).toEqual(["rope"]);
    expect(filtered(rows, "", "error")).toEqual([]);
    expect(filtered(rows, "tau_final", "all").map((row) => row.set.name)).toEqual(["rope"]);
  });

  it("draws only what is in sight of several hundred rows", () => {
    const [first, last] = visibleRange(20_000, 700, 100, 600);
    expect(first).toBeLessThanOrEqual(200);
    expect(last).toBeGreaterThanOrEqual(207);
    expect(last - first).toBeLessThan(20);
    expect(visibleRange(0, 700, 100, 3)).toEqual([0, 3]);
  });
});
