/** Casts and versions of masters as a surface wears them. */
import { type Cast, type Impact, readSheet, type SheetSlot, slotPicture } from "@/api/materials";
import { client, data } from "@/api/client";
import type { SlotSource, PreviewMaterial } from "@/preview/sheetScene";
import { t } from "@/texts/materials";

import { plainOf } from "./values";

type Fill = Pick<Cast["fills"][number], "slot" | "set" | "role" | "version">;
type ImpactRow = Impact["casts"][number];
interface Filled {
  fills: Fill[];
  remarks: Cast["remarks"];
}
/** What keeps a slot from having a picture: its set or its map is not there. */
const NO_PICTURE = ["set_missing", "map_missing"];

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
      (one) => one.slot === slot.name && one.severity === "error" && NO_PICTURE.includes(one.check),
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

/** The colours of a cast in the slots of another sheet that take colours; every other slot reads one value. */
export function sampleSources(
  slug: string,
  slots: SheetSlot[],
  cast: Cast | null | undefined,
): Record<string, SlotSource> {
  const colour = cast?.sheet.slots.find((one) => one.role === "base_color");
  const fill = cast?.fills.find((one) => one.slot === colour?.name);
  return Object.fromEntries(
    slots.map((slot) => {
      const plain = plainOf(slot);
      if (!fill || slot.role !== "base_color") return [slot.name, plain];
      const url = slotPicture(slug, fill.set, slot, fill.version);
      return [slot.name, { ...plain, url, srgb: slot.colour_space === "srgb" }];
    }),
  );
}

export const fetchCast = (slug: string, pk: number): Promise<Cast> =>
  data(client.GET("/api/projects/{slug}/materials/{pk}", { params: { path: { slug, pk } } }));

export const materialOfCast = (slug: string, cast: Cast, side = 512): PreviewMaterial => ({
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
  if (!told.sheet) throw new Error(told.problem?.message ?? t("thisVersionCannotBeRead"));
  return told.sheet;
}

/** A cast under another version of its master, as the server says that an update would leave it. */
export const materialAfterUpdate = (
  slug: string,
  after: ImpactRow,
  sheet: PreviewMaterial["sheet"],
  side = 512,
): PreviewMaterial => ({
  name: after.name,
  sheet,
  values: after.values,
  slots: slotSources(slug, sheet.slots, { fills: after.fills, remarks: [] }, side),
});
