/** Large pictures piece by piece: which cells of a grid are in sight, fetched as they are needed, the oldest forgotten. */

import type { Standing } from "./view";

/** Side of a tile in its own pixels. */
export const TILE = 512;
/** Longest side of a picture that is shown whole; larger ones are shown reduced to it, with tiles over it. */
export const BASE_SIDE = 2048;
const AT_ONCE = 4;

/** A level of tiles. span: texels of the full map along a tile's side. */
export interface Grid {
  level: number;
  span: number;
  columns: number;
  rows: number;
}

/** The coarsest level that loses nothing at this zoom (canvas pixels a texel); null when the base picture does. */
export function gridFor(zoom: number, width: number, height: number): Grid | null {
  const level = Math.max(0, Math.floor(Math.log2(1 / zoom)));
  if (Math.max(width, height) / 2 ** level <= BASE_SIDE) return null;
  const span = TILE * 2 ** level;
  return { level, span, columns: Math.ceil(width / span), rows: Math.ceil(height / span) };
}

/** Cells along one side between two places in texels; the picture is repeated and may be shifted by half. */
function along(
  low: number,
  high: number,
  side: number,
  span: number,
  repeat: number,
  shift: number,
): number[] {
  const found = new Set<number>();
  const from = Math.max(0, low) + shift;
  const to = Math.min(side * repeat, high) + shift;
  for (let start = Math.floor(from / side) * side; start < to; start += side) {
    const first = Math.floor(Math.max(0, from - start) / span);
    const last = Math.ceil(Math.min(side, to - start) / span);
    for (let cell = first; cell < last; cell++) found.add(cell);
  }
  return [...found];
}

/** Cells [column, row] of a grid that a window shows, the middle first. All in the same pixels. */
export function cellsInSight(
  grid: Grid,
  standing: Standing,
  window: [number, number],
  size: [number, number],
  repeat = 1,
  half = false,
): [number, number][] {
  const texel = (place: number, corner: number) => (place - corner) / standing.zoom;
  const shift = (side: number) => (half ? side / 2 : 0);
  const [width, height] = size;
  const columns = along(
    texel(0, standing.left),
    texel(window[0], standing.left),
    width,
    grid.span,
    repeat,
    shift(width),
  );
  const rows = along(
    texel(0, standing.top),
    texel(window[1], standing.top),
    height,
    grid.span,
    repeat,
    shift(height),
  );
  const middle = (cells: number[]) => (Math.min(...cells) + Math.max(...cells)) / 2;
  const [x, y] = [middle(columns), middle(rows)];
  const far = ([column, row]: [number, number]) => Math.hypot(column - x, row - y);
  return rows
    .flatMap((row) => columns.map((column): [number, number] => [column, row]))
    .sort((a, b) => far(a) - far(b));
}

/** Tiles by name, each in a layer of a texture array. */
export class TileStore {
  private readonly layers = new Map<string, number>();
  private readonly asked = new Map<string, AbortController>();
  private waiting: { name: string; address: string }[] = [];
  private readonly free: number[];

  constructor(
    count: number,
    private readonly fetchTile: (address: string, signal: AbortSignal) => Promise<ImageBitmap>,
    private readonly arrived: (layer: number, picture: ImageBitmap) => void,
  ) {
    this.free = Array.from({ length: count }, (_, at) => count - 1 - at);
  }

  /** The layer that holds a tile, or null. */
  layer(name: string): number | null {
    const layer = this.layers.get(name);
    if (layer === undefined) return null;
    // Looked at again: the last to be forgotten.
    this.layers.delete(name);
    this.layers.set(name, layer);
    return layer;
  }

  /** Fetch what is not here, in this order; what was asked for before and is not wanted any more is dropped. */
  want(tiles: { name: string; address: string }[]): void {
    const names = new Set(tiles.map((one) => one.name));
    for (const [name, request] of this.asked) if (!names.has(name)) request.abort();
    this.waiting = tiles.filter((one) => !this.layers.has(one.name) && !this.asked.has(one.name));
    this.next();
  }

  private next(): void {
    while (this.asked.size < AT_ONCE && this.waiting.length) {
      const { name, address } = this.waiting.shift()!;
      const request = new AbortController();
      this.asked.set(name, request);
      void this.fetchTile(address, request.signal)
        .then((picture) => this.place(name, picture))
        .catch(() => undefined) // dropped, or said by the picture below it
        .finally(() => {
          this.asked.delete(name);
          this.next();
        });
    }
  }

  private place(name: string, picture: ImageBitmap): void {
    let layer = this.free.pop();
    if (layer === undefined) {
      const [oldest, taken] = this.layers.entries().next().value!;
      this.layers.delete(oldest);
      layer = taken;
    }
    this.layers.set(name, layer);
    this.arrived(layer, picture);
  }

  /** Nothing more is wanted. */
  stop(): void {
    this.waiting = [];
    for (const request of this.asked.values()) request.abort();
  }
}
