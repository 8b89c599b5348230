/** How a set is looked at on a surface, and what can stand beside it. No three.js here: the page loads that later. */
import type { Shape } from "./stage";

export type { Shape };

/** Misreadings that the scene draws, by the server's keys. */
const DRAWN = ["data_as_srgb", "green_flipped"] as const;
export type Misread = "none" | (typeof DRAWN)[number];
export const isDrawn = (key: string): boolean => (DRAWN as readonly string[]).includes(key);

/** What the surface is seen next to: itself misread, or as it was before any step. */
export type Against = Misread | "before";

export interface Slots {
  base_color?: string;
  normal?: string;
  pack?: string;
  emissive?: string;
  /** "MASK", "BLEND" or none. */
  alpha?: boolean;
}

export interface Look {
  shape: Shape;
  against: Against;
  /** Of the light, degrees around the vertical axis. */
  turn: number;
  maps: Record<"base_color" | "normal" | "roughness" | "metallic" | "occlusion" | "emissive", boolean>;
}
