import { reactive } from "vue";

import { t } from "@/texts/viewer";

/** "over": all channels with alpha over a chequer. */
export type Channel = "rgb" | "r" | "g" | "b" | "a" | "over";
/** "before": the other side alone, such as the source without its steps. */
export type Comparison = "none" | "before" | "wipe" | "beside" | "difference";

/** How a picture is looked at. Nothing here changes the map. */
export interface Look {
  channel: Channel;
  comparison: Comparison;
  /** Factor on differences. */
  gain: number;
  /** Tiles along a side. */
  repeat: number;
  /** Moved by half a tile, so that the seam is in the middle. */
  half: boolean;
  /** Stops: each doubles the values shown. */
  exposure: number;
  gamma: number;
  /** Mip level; 0 is the map itself. */
  level: number;
  /** Histogram and clipping. */
  statistics: boolean;
}

export const newLook = (): Look =>
  reactive({
    channel: "rgb",
    comparison: "none",
    gain: 8,
    repeat: 1,
    half: false,
    exposure: 0,
    gamma: 1,
    level: 0,
    statistics: false,
  });

export const REPEATS = [1, 2, 3, 4, 8];
export const COMPARISONS: Comparison[] = ["none", "before", "wipe", "beside", "difference"];

export const following = <T>(all: readonly T[], now: T): T => all[(all.indexOf(now) + 1) % all.length]!;
const held = (low: number, high: number, value: number) => Math.max(low, Math.min(high, value));

/** The steps that keys and buttons take. */
export const expose = (look: Look, by: number) => (look.exposure = held(-8, 12, look.exposure + by));
export const bend = (look: Look, factor: number) =>
  (look.gamma = Number(held(0.1, 10, look.gamma * factor).toFixed(2)));
export const levelBy = (look: Look, by: number, levels: number) =>
  (look.level = held(0, levels - 1, look.level + by));
export function plain(look: Look): void {
  [look.exposure, look.gamma, look.level] = [0, 1, 0];
}

/** How it differs from the plain look, for the line below the picture. */
export function describeLook({ exposure, gamma, level }: Look): string[] {
  const parts = [];
  if (exposure) parts.push(t("exposureOf", { stops: `${exposure > 0 ? "+" : ""}${exposure}` }));
  if (gamma !== 1) parts.push(t("gammaOf", { gamma }));
  if (level) parts.push(t("mipOf", { level }));
  return parts;
}

/** Levels of a full mip chain: floor(log2(longest side)) + 1 (Vulkan, KTX 2.0). */
export const levelsOf = (width: number, height: number) =>
  Math.floor(Math.log2(Math.max(1, width, height))) + 1;
