import { describe, expect, it } from "vitest";

import type { RoleInfo, SetList, TextureSet, TextureMap } from "@/api/types";

import {
  columnsOf,
  filtered,
  grouped,
  offsetsOf,
  rowOf,
  sorted,
  stateOf,
  tilesByName,
  visibleRange,
} from "./matrix";

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
    targets: [],
    regions: [],
    licence: "",
    credit: "",
    headline: null,
    checks: [],
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

describe("the matrix of sets", () => {
  it("shows the usual six roles, and others only when used", () => {
    const setList = {
      roles,
      sets: [set("a", [])],
      count: 0,
      tiled: [],
      undecided: [],
      undo: null,
      redo: null,
    } as SetList;
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
    const names = (words: string) => filtered(rows, { words, filter: "all" }).map((row) => row.set.name);
    expect(names("bell SHIP")).toEqual(["Ship bell"]);
    expect(names("height.png")).toEqual(["rope"]);
    expect(names("tau_final")).toEqual(["rope"]);
    expect(filtered(rows, { words: "", filter: "error" })).toEqual([]);
  });

  it("finds rows by a check, and by the sets that are asked for", () => {
    const rows = [set("a", [], { checks: ["banding"] }), set("b", [], { id: 2 })].map((one) =>
      rowOf(one, roles),
    );
    expect(filtered(rows, { words: "", filter: "all", check: "banding" })).toEqual([rows[0]]);
    expect(filtered(rows, { words: "", filter: "all", only: new Set([2]) })).toEqual([rows[1]]);
  });

  it("is sorted by name as people count, by verdict, by what is in it", () => {
    const rows = [
      set("tile10", [map("normal", { width: 64, height: 64 })]),
      set("tile9", [map("normal", { width: 512, height: 512 }), map("height")], { warnings: 1 }),
      set("bell", [], { errors: 1 }),
    ].map((one) => rowOf(one, roles));
    const names = (by: "maps" | "name" | "verdict") => sorted(rows, by).map((row) => row.set.name);
    expect(names("name")).toEqual(["bell", "tile9", "tile10"]);
    expect(names("verdict")).toEqual(["bell", "tile9", "tile10"]);
    expect(names("maps")).toEqual(["tile9", "tile10", "bell"]);
  });

  it("is grouped by folder, prefix or verdict, below heads with counts", () => {
    const rows = [
      set("hull_a", [map("normal", { file: "hull/a.png" })]),
      set("hull-b", [map("normal", { file: "hull/b.png" })], { errors: 1 }),
      set("deck_c", [map("normal", { file: "c.png" })]),
    ].map((one) => rowOf(one, roles));
    const heads = (by: "folder" | "none" | "prefix" | "verdict") =>
      grouped(rows, by).flatMap((item) => (item.head === undefined ? [] : [[item.head, item.count]]));
    expect(heads("folder")).toEqual([
      ["hull", 2],
      ["No folder", 1],
    ]);
    expect(heads("prefix")).toEqual([
      ["hull", 2],
      ["deck", 1],
    ]);
    expect(heads("verdict")).toEqual([
      ["No findings", 2],
      ["Errors", 1],
    ]);
    expect(heads("none")).toEqual([]);
    expect(offsetsOf(grouped(rows, "folder"), 100, 30)).toEqual([0, 30, 130, 230, 260, 360]);
  });

  it("draws only what is in sight of several hundred rows", () => {
    const offsets = Array.from({ length: 601 }, (_, index) => index * 100);
    const [first, last] = visibleRange(offsets, 20_000, 700);
    expect(first).toBeLessThanOrEqual(200);
    expect(last).toBeGreaterThanOrEqual(207);
    expect(last - first).toBeLessThan(20);
    expect(visibleRange([0, 100, 200, 300], 0, 700)).toEqual([0, 3]);
  });

  it("knows how many tiles a surface has that a set is one of", () => {
    const tiles = ["wall.1001", "wall.1002"].map((name, at) => ({ number: 1001 + at, set: name }));
    const list = { tiled: [{ name: "wall", tiles }] } as unknown as SetList;
    expect(tilesByName(list)).toEqual(
      new Map([
        ["wall.1001", 2],
        ["wall.1002", 2],
      ]),
    );
    expect(rowOf(set("wall.1001", []), roles, 2).tiles).toBe(2);
    expect(rowOf(set("rope", []), roles).tiles).toBe(0);
  });
});
