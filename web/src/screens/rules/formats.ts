/** What containers hold, as the core's target documents have it. */
export const GPU = ["dds", "ktx2"];
export const BITS: Record<string, (8 | 16 | 32)[]> = { png: [8, 16], tga: [8], exr: [32], tiff: [8, 16, 32] };
export const BLOCK_FORMATS = [
  "bc1",
  "bc3",
  "bc4",
  "bc5",
  "bc6h",
  "bc7",
  "etc2",
  "etc2a",
  "eac_r",
  "eac_rg",
  "astc_4x4",
  "astc_5x5",
  "astc_6x6",
  "astc_8x8",
  "astc_10x10",
  "astc_12x12",
  "r8",
  "rg8",
  "rgba8",
  "r16",
  "rgba16",
  "rgba16f",
  "r32f",
  "rgba32f",
];
