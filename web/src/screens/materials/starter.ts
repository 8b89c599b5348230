/** What a new master begins with: a plain surface that works, to be changed. */
import type { MasterDocument } from "@/api/materials";

export function starter(title: string): MasterDocument {
  const name =
    title
      .toLowerCase()
      .trim()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-+|-+$/g, "") || "master";
  return {
    format: "fair-texel/master",
    version: 1,
    name,
    title,
    slots: [
      { name: "colour", title: "Colour", role: "base_color" },
      { name: "pack", title: "Occlusion, roughness, metallic", layout: "occlusion-roughness-metallic" },
      { name: "bumps", title: "Normal", role: "normal" },
    ],
    parameters: [
      { name: "tiling", kind: "vector", default: [1, 1], title: "Tiling", group: "Coordinates" },
      { name: "shade", kind: "colour", default: [1, 1, 1], title: "Tint", group: "Colour" },
      { name: "bump", kind: "number", default: 1, low: 0, high: 4, title: "Relief", group: "Surface" },
    ],
    coordinates: [{ name: "main", tiling: "tiling" }],
    inputs: {
      base_color: "colour * shade",
      metallic: "pack.b",
      roughness: "pack.g",
      normal: "strengthen(bumps, bump)",
      occlusion: "pack.r",
    },
  };
}
