/** Exact stored values of a map, read tile by tile from the server, and what they mean. */
import type { TextureMap } from "@/api/types";
import { t } from "@/texts/viewer";

const TILE = 256;
const MOST_TILES = 64;

export interface Texel {
  x: number;
  y: number;
  channels: string;
  stored: number[];
  /** Stored numbers with full scale 1. */
  unit: number[];
}

interface Tile {
  x: number;
  y: number;
  width: number;
  height: number;
  channels: string;
  scale: number;
  numbers: Uint8Array | Uint16Array | Float32Array;
}

/** sRGB decoding, IEC 61966-2-1, only for the read-out beside the stored number. */
export function decodeSrgb(encoded: number): number {
  return encoded <= 0.04045 ? encoded / 12.92 : ((encoded + 0.055) / 1.055) ** 2.4;
}

export function texelOf(tile: Tile, x: number, y: number): Texel | null {
  const column = x - tile.x;
  const row = y - tile.y;
  if (column < 0 || row < 0 || column >= tile.width || row >= tile.height) return null;
  const count = tile.channels.length;
  const at = (row * tile.width + column) * count;
  const stored = [...tile.numbers.subarray(at, at + count)];
  return { x, y, channels: tile.channels, stored, unit: stored.map((one) => one / tile.scale) };
}

/** One line about a texel: stored numbers, then what they mean for the role. */
export function describe(texel: Texel, map: Pick<TextureMap, "role" | "bits">, colour: boolean): string {
  const digits = map.bits === 32 ? 4 : 0;
  const stored = texel.stored.map(
    (value, at) => `${texel.channels[at]!.toUpperCase()} ${value.toFixed(digits)}`,
  );
  let meaning = "";
  if (map.role === "normal" && texel.unit.length >= 3) {
    const vector = texel.unit.slice(0, 3).map((value) => 2 * value - 1);
    const length = Math.hypot(...vector);
    meaning = t("vectorOf", { vector: vector.map((v) => v.toFixed(3)).join(" "), length: length.toFixed(3) });
  } else if (colour && map.bits !== 32) {
    meaning = t("linearOf", {
      values: texel.unit
        .slice(0, 3)
        .map((value) => decodeSrgb(value).toFixed(4))
        .join(" "),
    });
  } else {
    meaning = t("valueOf", { values: texel.unit.map((value) => value.toFixed(4)).join(" ") });
  }
  return `${stored.join("  ")}   ${meaning}`;
}

/** Tiles of one map. Asking for a texel answers at once when its tile is here, else null and fetches it. */
export class Values {
  private readonly tiles = new Map<string, Tile | null>();

  constructor(
    private readonly address: string,
    private readonly arrived: () => void,
  ) {}

  texel(x: number, y: number): Texel | null {
    const key = `${Math.floor(x / TILE)},${Math.floor(y / TILE)}`;
    const tile = this.tiles.get(key);
    if (tile === undefined) void this.fetch(key);
    return tile ? texelOf(tile, x, y) : null;
  }

  private async fetch(key: string): Promise<void> {
    if (this.tiles.size > MOST_TILES) this.tiles.clear();
    this.tiles.set(key, null);
    const [column, row] = key.split(",").map(Number) as [number, number];
    const query = `x=${column * TILE}&y=${row * TILE}&width=${TILE}&height=${TILE}`;
    const answer = await fetch(`${this.address}&${query}`);
    if (!answer.ok) return;
    const said = (name: string) => answer.headers.get(`X-Texel-${name}`) ?? "";
    const data = await answer.arrayBuffer();
    const kinds = { uint8: Uint8Array, uint16: Uint16Array, float32: Float32Array };
    const Kind = kinds[said("Type") as keyof typeof kinds] ?? Uint8Array;
    this.tiles.set(key, {
      x: Number(said("X")),
      y: Number(said("Y")),
      width: Number(said("Width")),
      height: Number(said("Height")),
      channels: said("Channels"),
      scale: Number(said("Scale")),
      numbers: new Kind(data),
    });
    this.arrived();
  }
}
