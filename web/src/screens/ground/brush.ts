/** Strokes of the brush while they are drawn, by the formula of texel/ground/painting.py. */
import type { GroundStroke } from "@/api/ground";

export type Point = [x: number, y: number, pressure: number];
export interface Brush {
  /** Metres. */
  radius: number;
  /** 0 to 1. */
  strength: number;
  /** The share of the radius over which it fades. */
  falloff: number;
  mirror: "" | "x" | "y" | "both";
  wrap: boolean;
}
/** Texels that a change touched: columns and rows from, up to and without. */
export interface Touched {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

const fade = (distance: number, falloff: number): number => {
  if (falloff <= 0) return distance <= 1 ? 1 : 0;
  const t = Math.min(1, Math.max(0, (1 - distance) / falloff));
  return t * t * (3 - 2 * t);
};

/** The strongest touch of texels by a line from one point to another, kept in ``touch`` (0 to 1, side x side). */
export function touchLine(
  touch: Float32Array,
  side: number,
  texel: number,
  [ax, ay, ap]: Point,
  [bx, by, bp]: Point,
  radius: number,
  falloff: number,
): Touched {
  const left = Math.max(0, Math.trunc((Math.min(ax, bx) - radius) / texel));
  const right = Math.min(side, Math.trunc((Math.max(ax, bx) + radius) / texel) + 1);
  const top = Math.max(0, Math.trunc((Math.min(ay, by) - radius) / texel));
  const bottom = Math.min(side, Math.trunc((Math.max(ay, by) + radius) / texel) + 1);
  const [dx, dy] = [bx - ax, by - ay];
  const length = dx * dx + dy * dy;
  for (let row = top; row < bottom; row++) {
    const y = (row + 0.5) * texel;
    for (let column = left; column < right; column++) {
      const x = (column + 0.5) * texel;
      const along = length ? Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / length)) : 0;
      const distance = Math.hypot(x - (ax + along * dx), y - (ay + along * dy)) / radius;
      if (distance > 1) continue;
      const made = fade(distance, falloff) * (ap + along * (bp - ap));
      const at = row * side + column;
      if (made > touch[at]!) touch[at] = made;
    }
  }
  return { left, top, right, bottom };
}

/** The line and its copies on the other side of the middle, and beyond the border. */
export function copiesOf(line: [Point, Point], metres: number, brush: Brush): [Point, Point][] {
  const moved = (of: [Point, Point], change: (x: number, y: number) => [number, number]) =>
    of.map(([x, y, p]) => [...change(x, y), p]) as [Point, Point];
  let copies = [line];
  if (brush.mirror === "x" || brush.mirror === "both")
    copies = copies.flatMap((one) => [one, moved(one, (x, y) => [metres - x, y])]);
  if (brush.mirror === "y" || brush.mirror === "both")
    copies = copies.flatMap((one) => [one, moved(one, (x, y) => [x, metres - y])]);
  if (!brush.wrap) return copies;
  const shifts = [-1, 0, 1].flatMap((i) => [-1, 0, 1].map((j) => [i * metres, j * metres] as const));
  return copies.flatMap((one) => shifts.map(([dx, dy]) => moved(one, (x, y) => [x + dx, y + dy])));
}

/** One stroke under the hand: what it touches, and the paint of its layer as it will be. */
export class LiveStroke {
  readonly points: Point[] = [];
  private readonly touch: Float32Array;
  private readonly before: Uint8Array;

  /** paint: of the layer, 128 for nothing; changed in place while the stroke goes on. */
  constructor(
    private readonly paint: Uint8Array,
    private readonly side: number,
    private readonly metres: number,
    private readonly brush: Brush,
  ) {
    this.touch = new Float32Array(side * side);
    this.before = paint.slice();
  }

  /** Go on to a point; false when it lies too near to the last one to matter. */
  add(point: Point): boolean {
    const last = this.points.at(-1) ?? point;
    const near = Math.hypot(point[0] - last[0], point[1] - last[1]) < this.brush.radius / 8;
    if (this.points.length && near) return false;
    this.points.push(point);
    const texel = this.metres / this.side;
    for (const [from, to] of copiesOf([last, point], this.metres, this.brush))
      this.lay(touchLine(this.touch, this.side, texel, from, to, this.brush.radius, this.brush.falloff));
    return true;
  }

  private lay({ left, top, right, bottom }: Touched): void {
    for (let row = top; row < bottom; row++)
      for (let at = row * this.side + left; at < row * this.side + right; at++) {
        const made = this.before[at]! - 128 + this.brush.strength * this.touch[at]! * 127;
        this.paint[at] = Math.round(Math.min(127, Math.max(-127, made))) + 128;
      }
  }

  /** As it is sent. */
  stroke(layer: string): GroundStroke {
    const { radius, strength, falloff, mirror, wrap } = this.brush;
    const rounded = (value: number) => Math.round(value * 1000) / 1000;
    return {
      layer,
      points: this.points.map((point) => point.map(rounded)),
      radius,
      strength,
      falloff,
      wrap,
      ...(mirror ? { mirror } : {}),
    };
  }
}
