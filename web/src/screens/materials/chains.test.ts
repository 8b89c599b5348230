import { flushPromises } from "@vue/test-utils";
import { afterEach, describe, expect, it, vi } from "vitest";

import type { Operation, Sheet, SheetRow } from "@/api/materials";
import { choose, mounted, serve, until } from "@/tests/mounting";

import ChainEditor from "./ChainEditor.vue";
import { newLink, startsOf } from "./chains";
import CurveField from "./CurveField.vue";
import { isDrawn, movedTo, pointsOf, textsOf, withoutPoint, withPoint } from "./curves";

afterEach(() => vi.unstubAllGlobals());

const operation = (name: string, more: Partial<Operation> = {}): Operation => ({
  name,
  label: name,
  group: "Maps",
  arguments: ["value"],
  variadic: false,
  help: "",
  example: "",
  begins_with: [],
  maps: [],
  ...more,
});
const READ = operation("read", { arguments: ["value", "map"], begins_with: [""], maps: [1] });
const CURVE = operation("curve", {
  arguments: ["value", "x", "y", "x", "y"],
  begins_with: ["0", "0", "1", "1"],
  variadic: true,
});
const slot = (name: string, layout: string | null = null) => ({ name, title: name, layout });
const SHEET = {
  slots: [slot("bark"), slot("pack", "orm")],
  rows: [],
  functions: [],
  parameters: [{ name: "dull" }],
} as unknown as Sheet;
const row = (start: string, step: string, others: string[]): SheetRow =>
  ({
    name: "roughness",
    label: "Roughness",
    text: "",
    chain: { start, steps: [{ step, others }] },
  }) as SheetRow;
const STARTS = [
  { name: "uv", label: "Coordinates", size: 2, help: "" },
  { name: "vertex", label: "Vertex colour", size: 4, help: "" },
];

describe("a step", () => {
  it("begins with what the operation says, and reads the sheet's first map", () => {
    expect(newLink(READ, SHEET)).toEqual({ step: "read", others: ["bark"] });
    expect(newLink(CURVE, SHEET).others).toEqual(["0", "0", "1", "1"]);
  });

  it("starts anywhere: maps, channels of packed ones, parameters, and where the surface is", () => {
    const starts = startsOf(SHEET, row("uv", "read", ["bark"]), STARTS);
    expect(starts).toEqual(expect.arrayContaining(["bark", "pack.g", "dull", "uv", "vertex.r"]));
  });
});

describe("the editor of a chain", () => {
  const shown = (one: SheetRow) =>
    mounted(ChainEditor, { row: one, sheet: SHEET, operations: [READ, CURVE], problem: null });

  it("offers slots where an operation takes a map", async () => {
    const calls = serve({
      "POST /api/masters/chain": { text: "read(uv, pack)" },
      "GET /api/masters/catalogue": { inputs: [], operations: [], starts: STARTS },
    });
    const editor = shown(row("uv", "read", ["bark"]));
    await choose(editor, "map", "pack");
    await until(() => expect(calls.find((one) => one.method === "POST")).toBeDefined());
    const { body } = calls.find((one) => one.method === "POST")!;
    expect(body).toEqual({ start: "uv", steps: [{ step: "read", others: ["pack"] }], functions: [] });
  });

  it("draws a curve of numbers, and writes one that reads parameters", () => {
    serve({ "GET /api/masters/catalogue": { inputs: [], operations: [], starts: STARTS } });
    expect(
      shown(row("bark", "curve", ["0", "0", "1", "1"]))
        .findComponent(CurveField)
        .exists(),
    ).toBe(true);
    expect(
      shown(row("bark", "curve", ["0", "dull", "1", "1"]))
        .findComponent(CurveField)
        .exists(),
    ).toBe(false);
  });
});

describe("a curve", () => {
  const points = pointsOf(["0", "0.1", "0.5", "0.5", "1", "0.9"]);

  it("holds points as texts", () => {
    expect(textsOf(points)).toEqual(["0", "0.1", "0.5", "0.5", "1", "0.9"]);
    expect(isDrawn(["0", "0", "1"])).toBe(false);
  });

  it("keeps a point between its neighbours and within the picture", () => {
    expect(movedTo(points, 1, { x: 2, y: 2 })[1]).toEqual({ x: 0.99, y: 1 });
    expect(movedTo(points, 0, { x: -1, y: -1 })[0]).toEqual({ x: 0, y: 0 });
  });

  it("has two to eight points, none on another", () => {
    expect(withPoint(points, { x: 0.5, y: 0.1 })).toBe(points);
    expect(withPoint(points, { x: 0.2, y: 0.3 }).map((one) => one.x)).toEqual([0, 0.2, 0.5, 1]);
    let many = points;
    for (let at = 1; at < 20; at++) many = withPoint(many, { x: at / 21, y: 0 });
    expect(many).toHaveLength(8);
    expect(withoutPoint(points.slice(0, 2), 0)).toHaveLength(2);
  });

  it("is moved by arrow keys and loses a point by Delete", async () => {
    const field = mounted(CurveField, { points: textsOf(points), label: "Points" });
    const middle = field.findAll("circle")[1]!;
    await middle.trigger("keydown", { key: "ArrowUp" });
    expect(field.emitted("change")![0]).toEqual([["0", "0.1", "0.5", "0.52", "1", "0.9"]]);
    await middle.trigger("keydown", { key: "Delete" });
    expect(field.emitted("change")![1]).toEqual([["0", "0.1", "1", "0.9"]]);
  });

  it("follows the hand and is given when it is let go", async () => {
    const field = mounted(CurveField, { points: textsOf(points), label: "Points" });
    const box = { left: 0, top: 0, width: 196, height: 126 };
    (field.get("svg").element as SVGSVGElement).getBoundingClientRect = () => box as DOMRect;
    await field.findAll("circle")[1]!.trigger("pointerdown", { pointerId: 1 });
    await field.get("svg").trigger("pointermove", { clientX: 8 + 45, clientY: 8 + 110 });
    expect(field.emitted("change")).toBeUndefined();
    await field.get("svg").trigger("pointerup");
    expect(field.emitted("change")![0]).toEqual([["0", "0.1", "0.25", "0", "1", "0.9"]]);
    await flushPromises();
  });
});
