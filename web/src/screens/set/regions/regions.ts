/** Regions of a set's maps while they are drawn: in shares of the sides, on whole texels. */
import type { Region } from "@/api/atlases";

export interface Sides {
  width: number;
  height: number;
}
type Point = readonly [number, number];

const snapped = (share: number, texels: number) =>
  Math.round(Math.min(1, Math.max(0, share)) * texels) / texels;

/** The region between two points that were dragged over, on whole texels; null where it would be empty. */
export function between(
  name: string,
  one: Point,
  other: Point,
  sides: Sides,
  isStrip: boolean,
): Region | null {
  const [left, right] = isStrip
    ? [0, 1]
    : [Math.min(one[0], other[0]), Math.max(one[0], other[0])].map((x) => snapped(x, sides.width));
  const [top, bottom] = [Math.min(one[1], other[1]), Math.max(one[1], other[1])].map((y) =>
    snapped(y, sides.height),
  );
  const [width, height] = [right! - left!, bottom! - top!];
  return width > 0 && height > 0 ? { name, left: left!, top: top!, width, height } : null;
}

type Side = "left" | "top" | "width" | "height";
/** A side of a region in texels of the map. */
export const texelsOf = (region: Region, side: Side, sides: Sides): number =>
  Math.round(region[side] * (side === "left" || side === "width" ? sides.width : sides.height));

/** The region with one side set to so many texels; what would reach beyond the map is made smaller. */
export function withTexels(region: Region, side: Side, texels: number, sides: Sides): Region {
  const whole = side === "left" || side === "width" ? sides.width : sides.height;
  const next = { ...region, [side]: Math.min(1, Math.max(0, texels / whole)) };
  next.width = Math.min(next.width, 1 - next.left) || 1 / sides.width;
  next.height = Math.min(next.height, 1 - next.top) || 1 / sides.height;
  return next;
}

/** Metres of surface that a region shows; only both together are kept. */
export function withMetres(region: Region, at: 0 | 1, metres: number | null): Region {
  const { metres: before, ...rest } = region;
  if (metres === null) return rest;
  const other = before?.[1 - at] ?? metres;
  return { ...rest, metres: at === 0 ? [metres, other] : [other, metres] };
}

/** Regions of equal size, row by row. */
export const grid = (columns: number, rows: number, name: (number: number) => string): Region[] =>
  Array.from({ length: columns * rows }, (_, at) => ({
    name: name(at + 1),
    left: (at % columns) / columns,
    top: Math.floor(at / columns) / rows,
    width: 1 / columns,
    height: 1 / rows,
  }));
