/** Vertex colours under the brush while they are painted, by the formula of texel/meshes/painting.py. */
import type { VertexStroke } from "@/api/models";

/** A place on a surface: x, y, z in units of the file, its normal there, and pressure from 0 to 1. */
export type SurfacePoint = [
  x: number,
  y: number,
  z: number,
  nx: number,
  ny: number,
  nz: number,
  pressure: number,
];
export interface VertexBrush {
  channel: VertexStroke["channel"];
  /** Units of the file. */
  radius: number;
  /** 0 to 1. */
  strength: number;
  /** The share of the radius over which it fades. */
  falloff: number;
  /** Painted once more on the other side, where x is 0. */
  mirror: boolean;
}
/** Points of one piece of a mesh. colours: red, green, blue and alpha of each, changed in place. */
export interface PaintedPiece {
  positions: ArrayLike<number>;
  normals: ArrayLike<number>;
  colours: Float32Array;
}
export const CHANNELS = ["red", "green", "blue", "alpha"] as const;

/** The strongest touch of points by a line from one place to another, kept in ``touch`` (0 to 1); whether any was. */
export function touchPoints(
  touch: Float32Array,
  { positions, normals }: Pick<PaintedPiece, "positions" | "normals">,
  from: SurfacePoint,
  to: SurfacePoint,
  radius: number,
  falloff: number,
): boolean {
  const [dx, dy, dz] = [to[0] - from[0], to[1] - from[1], to[2] - from[2]];
  const length = dx * dx + dy * dy + dz * dz;
  let any = false;
  for (let at = 0; at < touch.length; at++) {
    let px = positions[3 * at]! - from[0];
    let py = positions[3 * at + 1]! - from[1];
    let pz = positions[3 * at + 2]! - from[2];
    const along = length ? Math.min(1, Math.max(0, (px * dx + py * dy + pz * dz) / length)) : 0;
    px -= along * dx;
    py -= along * dy;
    pz -= along * dz;
    const squared = px * px + py * py + pz * pz;
    if (squared > radius * radius) continue;
    let facing = 0;
    for (const axis of [0, 1, 2] as const)
      facing += normals[3 * at + axis]! * (from[3 + axis]! + along * (to[3 + axis]! - from[3 + axis]!));
    if (facing <= 0) continue;
    let made = from[6] + along * (to[6] - from[6]);
    if (falloff > 0) {
      const t = Math.min(1, Math.max(0, (1 - Math.sqrt(squared) / radius) / falloff));
      made *= t * t * (3 - 2 * t);
    }
    if (made <= touch[at]!) continue;
    touch[at] = made;
    any = true;
  }
  return any;
}

const mirrored = ([x, y, z, nx, ny, nz, pressure]: SurfacePoint): SurfacePoint => [
  -x,
  y,
  z,
  -nx,
  ny,
  nz,
  pressure,
];

/** One stroke under the hand: what it touches, and the colours of the pieces as they will be. */
export class LiveVertexStroke {
  readonly points: SurfacePoint[] = [];
  private readonly touch: Float32Array[];
  private readonly before: Float32Array[];
  private readonly channel: number;

  constructor(
    private readonly pieces: readonly PaintedPiece[],
    private readonly brush: VertexBrush,
  ) {
    this.channel = CHANNELS.indexOf(brush.channel);
    this.touch = pieces.map((one) => new Float32Array(one.colours.length / 4));
    this.before = pieces.map((one) => one.colours.slice());
  }

  /** Go on to a place; the pieces that changed, none when it lies too near to the last one to matter. */
  add(point: SurfacePoint): PaintedPiece[] {
    const last = this.points.at(-1) ?? point;
    const moved = Math.hypot(point[0] - last[0], point[1] - last[1], point[2] - last[2]);
    if (this.points.length && moved < this.brush.radius / 8) return [];
    this.points.push(point);
    const { radius, falloff, mirror } = this.brush;
    return this.pieces.filter((piece, at) => {
      let changed = touchPoints(this.touch[at]!, piece, last, point, radius, falloff);
      if (mirror && touchPoints(this.touch[at]!, piece, mirrored(last), mirrored(point), radius, falloff))
        changed = true;
      if (changed) this.lay(at);
      return changed;
    });
  }

  private lay(at: number): void {
    const { colours } = this.pieces[at]!;
    const [touch, before] = [this.touch[at]!, this.before[at]!];
    for (let point = 0, place = this.channel; point < touch.length; point++, place += 4)
      colours[place] = Math.min(1, Math.max(0, before[place]! + this.brush.strength * touch[point]!));
  }

  /** As it is sent. slot: key of the one that is painted, null for all. */
  stroke(slot: string | null): VertexStroke {
    const { channel, radius, strength, falloff, mirror } = this.brush;
    const rounded = (value: number) => Number(value.toPrecision(7));
    return {
      channel,
      points: this.points.map((point) => point.map(rounded)),
      radius,
      strength,
      falloff,
      ...(slot === null ? {} : { slot }),
      ...(mirror ? { mirror } : {}),
    };
  }
}
