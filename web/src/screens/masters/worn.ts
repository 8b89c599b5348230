/** Casts and versions of masters as a surface wears them. */
import { type Cast, readSheet, type SheetSlot, slotPicture } from "@/api/materials";
import { client, data } from "@/api/client";
import type { SlotSource, Worn } from "@/preview/sheetScene";

import { plainOf } from "./values";

type Filled = Pick<Cast, "fills" | "remarks">;

/** What fills the slots: pictures of sets, or what a slot reads without one. side: of the pictures, in texels. */
export function slotSources(
  slug: string,
  slots: SheetSlot[],
  cast: Filled | null | undefined,
  side = 512,
): Record<string, SlotSource> {
  const found: Record<string, SlotSource> = {};
  for (const slot of slots) {
    const fill = cast?.fills.find((one) => one.slot === slot.name);
    const broken = cast?.remarks.some(
      (one) => one.slot === slot.name && one.severity === "error" && one.check.endsWith("missing"),
    );
    found[slot.name] =
      fill && !broken
        ? {
            url: slotPicture(slug, fill.set, slot, fill.version, fill.role ?? null, side),
            srgb: slot.colour_space === "srgb",
            plain: [0, 0, 0, 1],
          }
        : plainOf(slot);
  }
  return found;
}

export const fetchCast = (slug: string, pk: number): Promise<Cast> =>
  data(client.GET("/api/projects/{slug}/materials/{pk}", { params: { path: { slug, pk } } }));

export const wornByCast = (slug: string, cast: Cast, side = 512): Worn => ({
  name: cast.name,
  sheet: cast.sheet,
  values: cast.values,
  slots: slotSources(slug, cast.sheet.slots, cast, side),
});

/** The sheet of a version, as the server reads it. */
export async function sheetOfVersion(name: string, number: string) {
  const document = await data(
    client.GET("/api/masters/{name}/versions/{number}", { params: { path: { name, number } } }),
  );
  const told = await readSheet(document);
  if (!told.sheet) throw new Error(told.problem?.message ?? "this version cannot be read");
  return told.sheet;
}

/** A cast under another version of its master: what it changes goes with it, by its new name where it has one. */
export function wornUnder(
  slug: string,
  cast: Cast,
  sheet: Worn["sheet"],
  renames: Record<string, string>,
  side = 512,
): Worn {
  const values: Record<string, number[]> = Object.fromEntries(
    sheet.parameters.map((one) => [one.name, one.default]),
  );
  for (const name of [...cast.changed, ...cast.inherited]) {
    const now = renames[name] ?? name;
    const parameter = sheet.parameters.find((one) => one.name === now);
    const value = cast.values[name];
    if (parameter && value?.length === parameter.default.length) values[now] = value;
  }
  const fills = cast.fills.map((one) => ({ ...one, slot: renames[one.slot] ?? one.slot }));
  return { name: cast.name, sheet, values, slots: slotSources(slug, sheet.slots, { ...cast, fills }, side) };
}
