import type { Sheet, SheetParameter, SheetRow } from "@/api/materials";
import { t } from "@/texts/materials";

/** The title over the rows that follow from stacking layers. */
export const STACKED = t("howTheLayersAreStacked");

interface RowWithParameters {
  row: SheetRow;
  /** Parameters that this row is the first to read. */
  own: SheetParameter[];
}
export interface RowGroup {
  title: string;
  rows: RowWithParameters[];
  /** Rows in all, folded ones too. */
  count: number;
}

/** Whether all words stand in a parameter's title, name, group or help. */
function isWanted(one: SheetParameter, words: string[]): boolean {
  const text = `${one.title} ${one.name} ${one.group} ${one.help}`.toLowerCase();
  return words.every((word) => text.includes(word));
}

/**
 * A sheet's rows with each parameter once, beside the first row that reads it; rest: parameters that no row reads.
 * Rows of one layer stand together; those that follow from stacking come last, without parameters only when unfolded.
 */
export function rowGroups(
  sheet: Sheet,
  search: string,
  folded: boolean,
): { groups: RowGroup[]; rest: SheetParameter[] } {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const left = new Map(sheet.parameters.map((one) => [one.name, one]));
  const rows = sheet.rows.map((row) => {
    const own = row.reads.map((name) => left.get(name)).filter((one) => one !== undefined);
    own.forEach((one) => left.delete(one.name));
    return { row, own: own.filter((one) => isWanted(one, words)) };
  });
  const rest = [...left.values()].filter((one) => isWanted(one, words));
  if (!sheet.layered) return { groups: [{ title: "", rows, count: rows.length }], rest };
  const byLayer = new Map<string, RowWithParameters[]>();
  for (const one of rows) {
    const key = one.row.origin?.layer ?? "";
    byLayer.set(key, [...(byLayer.get(key) ?? []), one]);
  }
  const stacked = byLayer.get("") ?? [];
  byLayer.delete("");
  const layers = [...byLayer].map(([title, own]) => ({ title, rows: own, count: own.length }));
  const shown = folded ? stacked.filter((one) => one.own.length) : stacked;
  return { groups: [...layers, { title: STACKED, rows: shown, count: stacked.length }], rest };
}
