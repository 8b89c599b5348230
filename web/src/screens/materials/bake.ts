/** How maps are baked for an export. */
import { t } from "@/texts/materials";
export interface BakeOrder {
  side: number;
  bits: 8 | 16;
  green: "up" | "down";
  layouts: string[];
  /** What baked maps take the colour of a mesh's vertices to be: RGBA, 0 to 1. */
  vertex: number[];
}

export const SIDES = [256, 512, 1024, 2048, 4096, 8192];

/** Vertex colours to choose from, by what they mean for layers. */
export const VERTEX_COLOURS = [
  { label: t("blackTheLowestLayer"), value: [0, 0, 0, 1] },
  { label: t("red"), value: [1, 0, 0, 1] },
  { label: t("green"), value: [0, 1, 0, 1] },
  { label: t("blue"), value: [0, 0, 1, 1] },
  { label: t("whiteAllLayers"), value: [1, 1, 1, 1] },
];

export const plainBake = (): BakeOrder => ({
  side: 1024,
  bits: 8,
  green: "up",
  layouts: [],
  vertex: VERTEX_COLOURS[0]!.value,
});
