/** What slots wear, as choices and as materials that are drawn. */
import { fetchWorn, type Model, type ModelSlot, type Proposal, type Wears } from "@/api/models";
import { slotSources } from "@/screens/materials/previewMaterials";
import type { PreviewMaterial } from "@/preview/sheetMaterial";
import { t } from "@/texts/models";

/** A choice's value: "cast 3", "set 5", or "" for nothing. */
export const valueOf = (worn: Wears | null | undefined): string => (worn ? `${worn.kind} ${worn.id}` : "");
export function wearsOf(value: string): Wears | null {
  const [kind, id] = value.split(" ");
  return kind === "cast" || kind === "set" ? { kind, id: Number(id) } : null;
}

interface Named {
  id: number;
  name: string;
}
/** What a slot can wear, in groups: what its names propose, casts, sets. */
export function choicesFor(proposals: readonly Proposal[], casts: readonly Named[], sets: readonly Named[]) {
  const option = (kind: "cast" | "set") => (one: Named) => ({ value: `${kind} ${one.id}`, label: one.name });
  const proposed = proposals.map((one) => ({ value: valueOf(one), label: one.name }));
  return [
    { group: t("noMaterial"), options: [{ value: "", label: t("nothing") }] },
    ...(proposed.length ? [{ group: t("proposed"), options: proposed }] : []),
    ...(casts.length ? [{ group: t("casts"), options: casts.map(option("cast")) }] : []),
    ...(sets.length ? [{ group: t("sets"), options: sets.map(option("set")) }] : []),
  ];
}

/** A cast or a set as a surface wears it; null where the sheet has no shader. */
export async function materialOf(slug: string, worn: Wears, side = 512): Promise<PreviewMaterial> {
  const { sheet, values, fills } = await fetchWorn(slug, worn);
  return {
    name: valueOf(worn),
    sheet,
    values,
    slots: slotSources(slug, sheet.slots, { fills, remarks: [] }, side),
  };
}

/** What is called in short: its name in the file, or its number. */
export const nameOf = (slot: ModelSlot): string => slot.name || t("slotNumber", { number: slot.index + 1 });

/** The slots that wear nothing and for which something sure is proposed. */
export function sureOf(model: Model, proposals: readonly { key: string; proposals: Proposal[] }[]) {
  const sure: Record<string, Wears> = {};
  for (const slot of model.slots_out) {
    const best = proposals.find((one) => one.key === slot.key)?.proposals[0];
    if ((!slot.worn || slot.worn.name === null) && best?.is_sure)
      sure[slot.key] = { kind: best.kind, id: best.id };
  }
  return sure;
}

/** Metres and areas as people read them. */
export const metres = (value: number): string =>
  `${value.toLocaleString("en", { maximumSignificantDigits: 3 })} m`;
export const count = (value: number): string => value.toLocaleString("en");
