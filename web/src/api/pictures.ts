import type { Output, TextureMap } from "./types";

interface Wanted {
  side?: number;
  channel?: string;
  box?: { x: number; y: number; width: number; height: number };
  source?: boolean;
}

type Pictured = Pick<TextureMap, "id" | "digest" | "source" | "role">;

/** The address of a map's picture. It names what it shows, so that the browser may keep it. */
export function pictureOf(slug: string, map: Pictured, wanted: Wanted = {}): string {
  const query = new URLSearchParams({ v: wanted.source ? map.source.slice(0, 16) : map.digest.slice(0, 16) });
  if (wanted.side) query.set("side", String(wanted.side));
  if (wanted.channel) query.set("channel", wanted.channel);
  if (wanted.source) query.set("source", "true");
  if (wanted.box) {
    query.set("box", [wanted.box.x, wanted.box.y, wanted.box.width, wanted.box.height].join(","));
  }
  query.set("r", map.role);
  return `/api/projects/${slug}/maps/${map.id}/picture?${query}`;
}

/** The address of one tile of a large map. */
export function tileOf(
  slug: string,
  map: Pictured,
  wanted: { cell: [number, number]; level: number; channel?: string; source: boolean },
): string {
  const { cell, level, channel, source } = wanted;
  const query = new URLSearchParams({ v: (source ? map.source : map.digest).slice(0, 16), r: map.role });
  if (channel) query.set("channel", channel);
  if (source) query.set("source", "true");
  return `/api/projects/${slug}/maps/${map.id}/tile/${[level, ...cell].join("/")}?${query}`;
}

/** The address of one level of a map's mip chain, or of plain averaging. */
export function levelPictureOf(
  slug: string,
  map: Pictured,
  wanted: { chain: string; level: number; naive: boolean; channel?: string },
): string {
  const query = new URLSearchParams({ v: wanted.chain, r: map.role });
  if (wanted.naive) query.set("naive", "true");
  if (wanted.channel) query.set("channel", wanted.channel);
  return `/api/projects/${slug}/maps/${map.id}/mips/${wanted.level}?${query}`;
}

/** The address of one output as it would be delivered. */
export function fileOf(slug: string, set: number, target: string, output: Output): string {
  return `/api/projects/${slug}/sets/${set}/file?${new URLSearchParams({ target, path: output.path })}`;
}

/** The address of the picture of what a target makes of a set. */
export function packedOf(
  slug: string,
  set: number,
  target: string,
  output: Output,
  side: number,
  channel = "",
  untouched = false,
): string {
  const query = new URLSearchParams({
    target,
    path: output.path,
    side: String(side),
    v: output.plan.slice(0, 16),
  });
  if (channel) query.set("channel", channel);
  if (untouched) query.set("untouched", "true");
  return `/api/projects/${slug}/sets/${set}/packed?${query}`;
}
