/** Formats of graphics cards by the family that hardware must support, the smallest first within each. */
import type { Catalogue } from "@/api/types";

type Format = Catalogue["formats"][number];

export function byFamily(formats: readonly Format[]): { family: string; formats: Format[] }[] {
  const families = new Map<string, Format[]>();
  for (const one of formats) families.set(one.family, [...(families.get(one.family) ?? []), one]);
  return [...families].map(([family, all]) => ({
    family,
    formats: [...all].sort((a, b) => a.bits_per_texel - b.bits_per_texel),
  }));
}
