import { describe, expect, it } from "vitest";
import { shallowRef } from "vue";

import { layer, mud, patch, TERMS } from "@/tests/ground";
import { serve, until } from "@/tests/mounting";
import strokes from "@/tests/strokes.json";

import { type Brush, LiveStroke, type Point } from "./brush";
import { heightAt, meets, rangeOf } from "./land";
import { moved, newLayer, sharesOf } from "./layers";
import { useGroundStage } from "./useGroundStage";

describe("a stroke under the hand", () => {
  it("is laid down as the core lays it", () => {
    for (const { brush, points, metres, side, paint } of strokes) {
      const live = new Uint8Array(side * side).fill(128);
      const stroke = new LiveStroke(live, side, metres, brush as Brush);
      for (const point of points) stroke.add(point as Point);
      const worst = live.reduce((most, one, at) => Math.max(most, Math.abs(one - paint[at]!)), 0);
      expect(worst).toBeLessThanOrEqual(1);
    }
  });

  it("leaves out points that do not matter, and is sent in millimetres", () => {
    const brush: Brush = { radius: 2, strength: 0.5, falloff: 0, mirror: "", wrap: false };
    const stroke = new LiveStroke(new Uint8Array(64), 8, 8, brush);
    expect(stroke.add([1.00004, 1, 1])).toBe(true);
    expect(stroke.add([1.1, 1, 1])).toBe(false);
    expect(stroke.add([3, 1, 0.5])).toBe(true);
    expect(stroke.stroke("l2")).toMatchObject({ layer: "l2", points: [[1, 1, 1], [3, 1, 0.5]] }); // prettier-ignore
    expect(stroke.stroke("l2")).not.toHaveProperty("mirror");
  });
});

describe("the land", () => {
  const ramp = { heights: new Float32Array(64).map((_, at) => at % 8), side: 8, metres: 8 };

  it("is measured between texels, and ends evenly at its border", () => {
    expect(heightAt(ramp, 4, 4)).toBeCloseTo(3.5);
    expect(heightAt(ramp, -5, 4)).toBe(0);
    expect(rangeOf(ramp)).toEqual([0, 7]);
  });

  it("is met by a ray where it first goes below", () => {
    const hit = meets(ramp, [4, 20, 4], [0, -1, 0])!;
    expect(hit.x).toBeCloseTo(4);
    expect(meets(ramp, [4, 20, 4], [0, 1, 0])).toBeNull();
    expect(meets(ramp, [20, 3.5, 4], [-1, 0, 0])!.x).toBeGreaterThan(7);
  });
});

describe("layers", () => {
  it("stay above those whose edge they follow", () => {
    const edge = layer({ key: "l3", name: "Rim", rule: [{ measure: "edge", of: "l2" }] });
    const all = [layer(), mud, edge];
    expect(moved(all, 2, -1)).toBeNull();
    expect(moved(all, 1, -1)!.map((one) => one.key)).toEqual(["l2", "l1", "l3"]);
    expect(moved(all, 2, 1)).toBeNull();
  });

  it("get a name that none has", () => {
    expect(newLayer(TERMS, [layer(), layer({ name: "Layer 3" })]).name).toBe("Layer 4");
  });

  it("cover what rules and paint leave to them", () => {
    const rules = new Uint8Array(512).fill(255, 0, 256).fill(0, 256);
    const paint = new Uint8Array(512).fill(128);
    expect(sharesOf(rules, paint, 2)).toEqual([1, 0]);
    paint.fill(255, 256);
    expect(sharesOf(rules, paint, 2)).toEqual([0, 1]);
  });
});

describe("the stage", () => {
  const one = patch({ side: 8, metres: 8, land: "x", laid: "y" });
  function staged() {
    const size = 512 * 512;
    serve({
      "GET /api/projects/ferry/grounds/7/heights": new Float32Array(64),
      "GET /api/projects/ferry/grounds/7/rules": new Uint8Array(256).fill(128),
      "GET /api/projects/ferry/grounds/7/layers/0/tile": new Uint8Array(4 + 9 * size),
      "GET /api/projects/ferry/grounds/7/layers/1/tile": new Uint8Array(4 + 9 * size),
    });
    const seen = { land: 0, tiles: 0, rules: 0, repainted: [] as number[] };
    const scene = {
      setLand: () => seen.land++,
      setTiles: (tiles: unknown[]) => (seen.tiles = tiles.length),
      setRules: (_: unknown, __: unknown, layers: number) => (seen.rules = layers),
      repaint: (at: number) => seen.repainted.push(at),
    };
    const stage = useGroundStage(() => "ferry", () => one, shallowRef(scene as never), () => {}); // prettier-ignore
    return { stage, seen };
  }

  it("loads land, tiles, rules and paint", async () => {
    const { stage, seen } = staged();
    await stage.load();
    expect(seen).toMatchObject({ land: 1, tiles: 2, rules: 2 });
    expect(stage.paint.value).toHaveLength(128);
  });

  it("paints at once, and sends the stroke when the hand is lifted", async () => {
    const { stage, seen } = staged();
    await stage.load();
    const brush: Brush = { radius: 2, strength: 1, falloff: 0, mirror: "", wrap: false };
    stage.begin(1, brush, [4, 4, 1]);
    expect(seen.repainted).toEqual([1]);
    expect(stage.paint.value![64 + 4 * 8 + 4]).toBe(255);
    const sent: unknown[] = [];
    await stage.end((stroke) => Promise.resolve(sent.push(stroke)));
    await until(() => expect(sent).toMatchObject([{ layer: "l2", points: [[4, 4, 1]] }]));
  });
});
