import type { Chain, Operation, Sheet, SheetRow } from "@/api/materials";

/** What stands in a new step until somebody writes something else: it changes little or nothing. */
const FIRST: Record<string, string> = {
  by: "1",
  share: "0.5",
  exponent: "1",
  white: "1",
  high: "1",
  limit: "1",
  colour: "rgb(1, 1, 1)",
  amount: "1",
  occlusion: "1",
  strength: "1",
  detail: "vector(0, 0, 1)",
  switch: "1",
};

/** A step for a chain, its arguments filled with what changes little. */
export const newLink = (operation: Operation): Chain["steps"][number] => ({
  step: operation.name,
  others: operation.arguments.slice(1).map((one) => FIRST[one] ?? "0"),
});

/** What a chain of a row can start with: slots, channels of packed ones, other rows, parameters, vertex colour, uv. */
export function startsOf(sheet: Sheet, row: SheetRow): string[] {
  const slots = sheet.slots.flatMap((one) =>
    one.layout ? ["r", "g", "b", "a"].map((letter) => `${one.name}.${letter}`) : [one.name],
  );
  const rows = sheet.rows.filter((one) => !one.is_input && one.name !== row.name).map((one) => one.name);
  const all = [...slots, ...rows, ...sheet.parameters.map((one) => one.name), "vertex.r", "uv"];
  return [...new Set([row.chain.start, ...all])];
}
