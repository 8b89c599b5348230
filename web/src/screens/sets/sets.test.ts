import { describe, expect, it } from "vitest";

import type { SetList } from "@/api/types";
import { aMap, anUndecided, aSet, dragged, mounted, ROLES } from "@/tests/mounting";

import { rowOf } from "./matrix";
import SetRow from "./SetRow.vue";
import UndecidedTray from "./UndecidedTray.vue";

function aRow(more = {}) {
  const set = aSet([aMap("normal", { worst: "error" }), aMap("roughness", { id: 2 })], [], {
    missing: ["base_color"],
    errors: 1,
    headline: "dents would look like bumps",
    ...more,
  });
  return mounted(SetRow, {
    slug: "ferry",
    row: rowOf(set, ROLES),
    focusColumn: 1,
    chosen: false,
    renaming: false,
    mayChange: true,
  });
}

describe("a row of the sets", () => {
  it("says what is missing, what is wrong, and which print has the focus", () => {
    const row = aRow();
    expect(row.get("[data-role='base_color']").text()).toContain("missing");
    expect(row.get(".focused").attributes("data-role")).toBe("normal");
    expect(row.get("[data-role='normal'] .mark").classes()).toContain("error");
    expect(row.text()).toContain("1 error");
    expect(row.text()).toContain("dents would look like bumps");
  });

  it("does not speak of findings that are out of date", () => {
    const row = aRow({ judged: false });
    expect(row.text()).toContain("being checked");
    expect(row.text()).not.toContain("dents");
  });

  it("takes a print dropped on a cell", async () => {
    const row = aRow();
    await row.get("[data-role='metallic']").trigger("drop", dragged(2));
    expect(row.emitted("drop")![0]).toEqual(["metallic", 2]);
    await row.get("[data-role='metallic']").trigger("drop", dragged(0));
    expect(row.emitted("drop")).toHaveLength(1);
  });

  it("opens, is chosen and is renamed", async () => {
    const row = aRow();
    await row.get(".name").trigger("click");
    await row.get("input[type='checkbox']").setValue(true);
    await row.get("[aria-label='Rename deck']").trigger("click");
    expect(Object.keys(row.emitted())).toEqual(expect.arrayContaining(["open", "choose", "startRename"]));
    await row.setProps({ renaming: true });
    const input = row.get("[aria-label='New name']");
    await input.setValue("pier deck");
    await input.trigger("keydown", { key: "Enter" });
    expect(row.emitted("rename")![0]).toEqual(["pier deck"]);
    await input.trigger("keydown", { key: "Escape" });
    expect(row.emitted("rename")![1]).toEqual([null]);
  });
});

describe("the tray of undecided files", () => {
  const setList = {
    roles: ROLES,
    sets: [],
    count: 0,
    tiled: [],
    undecided: [anUndecided()],
    undo: null,
    redo: null,
  } as SetList;

  it("lists each with its reason and the likeliest answers", async () => {
    const tray = mounted(UndecidedTray, { slug: "ferry", setList, mayChange: true });
    expect(tray.text()).toContain("Undecided (1)");
    expect(tray.text()).toContain("its name says no role");
    await tray.get(".answer").trigger("click");
    expect(tray.emitted("place")![0]).toEqual([9, "base_color", "deck"]);
  });

  it("takes a print out of its set when dropped there", async () => {
    const tray = mounted(UndecidedTray, { slug: "ferry", setList, mayChange: true });
    await tray.get("aside").trigger("drop", dragged(4));
    expect(tray.emitted("drop")![0]).toEqual([4]);
  });

  it("shows no picture of what cannot be read, and no answers to those who may only look", () => {
    const broken = { ...setList, tiled: [], undecided: [anUndecided({ readable: false })] };
    const tray = mounted(UndecidedTray, { slug: "ferry", setList: broken, mayChange: false });
    expect(tray.findAll("img")).toHaveLength(0);
    expect(tray.findAll(".answer")).toHaveLength(0);
  });
});
