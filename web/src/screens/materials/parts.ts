import type { ParameterValue, SheetDocument } from "@/api/materials";

export type Slot = NonNullable<SheetDocument["slots"]>[number];
export type Parameter = NonNullable<SheetDocument["parameters"]>[number];

export const PARAMETER_KINDS: Parameter["kind"][] = ["number", "colour", "vector", "switch", "choice"];
const FIRST: Record<Parameter["kind"], ParameterValue> = {
  number: 0.5,
  colour: [1, 1, 1],
  vector: [1, 1],
  switch: false,
  choice: "one",
};

/** A name that none of the list has: the word with the first free number. */
export function freeName(list: readonly { name: string }[], word: string): string {
  let number = 1;
  while (list.some((one) => one.name === `${word}_${number}`)) number += 1;
  return `${word}_${number}`;
}

export const newSlot = (slots: readonly Slot[]): Slot => ({
  name: freeName(slots, "map"),
  role: "detail_mask",
});

export function newParameter(parameters: readonly Parameter[], kind: Parameter["kind"]): Parameter {
  const made: Parameter = { name: freeName(parameters, kind), kind, default: FIRST[kind] };
  if (kind === "choice") made.options = ["one", "two"];
  if (kind === "number") Object.assign(made, { low: 0, high: 1 });
  return made;
}
