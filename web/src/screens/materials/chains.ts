import type { Chain, Operation, Sheet, SheetRow } from "@/api/materials";

/** A step for a chain, its arguments filled with what changes little; a map is the sheet's first slot. */
export const newLink = (operation: Operation, sheet: Sheet): Chain["steps"][number] => ({
  step: operation.name,
  others: operation.begins_with.map((one) => one || (sheet.slots[0]?.name ?? "map")),
});

/** What a chain of a row can start with: slots, channels of packed ones, other rows, parameters, where it is. */
export function startsOf(sheet: Sheet, row: SheetRow, places: { name: string; size: number }[]): string[] {
  const slots = sheet.slots.flatMap((one) =>
    one.layout ? ["r", "g", "b", "a"].map((letter) => `${one.name}.${letter}`) : [one.name],
  );
  const rows = sheet.rows.filter((one) => !one.is_input && one.name !== row.name).map((one) => one.name);
  const where = places.map((one) => (one.size === 4 ? `${one.name}.r` : one.name));
  const all = [...slots, ...rows, ...sheet.parameters.map((one) => one.name), ...where];
  return [...new Set([row.chain.start, ...all])];
}
