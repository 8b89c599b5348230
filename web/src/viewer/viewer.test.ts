import { describe as group, expect, it } from "vitest";

import { decodeSrgb, describe, texelOf } from "./values";
import { framed, texelAt, zoomed } from "./view";

group("where a picture stands", () => {
  it("is framed whole and in the middle", () => {
    const standing = framed(1000, 500, 524, 524);
    expect(standing.zoom).toBeCloseTo(0.5);
    expect(standing.left).toBe(12);
    expect(standing.top).toBe(137);
  });

  it("keeps the texel under the pointer when zooming", () => {
    const before = framed(512, 512, 600, 600);
    const after = zoomed(before, 8, 321, 123, before.zoom);
    const texel = (s: typeof before) => [(321 - s.left) / s.zoom, (123 - s.top) / s.zoom];
    texel(after).forEach((value, at) => expect(value).toBeCloseTo(texel(before)[at]!, 6));
    expect(zoomed(before, 1e9, 0, 0, before.zoom).zoom).toBe(64);
  });

  it("knows the texel under a place, and when there is none", () => {
    const standing = { zoom: 4, left: 10, top: 20 };
    expect(texelAt(standing, 10, 20, 8, 8)).toEqual({ x: 0, y: 0 });
    expect(texelAt(standing, 41.9, 51.9, 8, 8)).toEqual({ x: 7, y: 7 });
    expect(texelAt(standing, 42, 20, 8, 8)).toBeNull();
    expect(texelAt(standing, 9, 20, 8, 8)).toBeNull();
  });
});

group("values under the pointer", () => {
  const tile = {
    x: 256,
    y: 0,
    width: 2,
    height: 2,
    channels: "rgb",
    scale: 255,
    numbers: new Uint8Array([1, 2, 3, 128, 128, 255, 7, 8, 9, 255, 128, 128]),
  };

  it("are the stored numbers of that texel", () => {
    expect(texelOf(tile, 257, 0)?.stored).toEqual([128, 128, 255]);
    expect(texelOf(tile, 256, 1)?.stored).toEqual([7, 8, 9]);
    expect(texelOf(tile, 255, 0)).toBeNull();
  });

  it("are said in the terms of the role", () => {
    const normal = describe(texelOf(tile, 257, 0)!, { role: "normal", bits: 8 }, false);
    expect(normal).toContain("R 128  G 128  B 255");
    expect(normal).toContain("vector 0.004 0.004 1.000, length 1.000");
    const colour = describe(texelOf(tile, 257, 0)!, { role: "base_color", bits: 8 }, true);
    expect(colour).toContain("linear 0.2159 0.2159 1.0000");
  });

  it("decode sRGB as the standard says (IEC 61966-2-1)", () => {
    expect(decodeSrgb(128 / 255)).toBeCloseTo(0.21586, 5);
    expect(decodeSrgb(0.04045)).toBeCloseTo(0.04045 / 12.92, 8);
  });
});
