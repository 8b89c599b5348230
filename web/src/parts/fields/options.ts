/** What can be chosen: a word, or a value with its label; several may stand under one heading. */
export interface Option<V> {
  value: V;
  label: string;
  help?: string;
  disabled?: boolean;
}
export interface OptionGroup<V> {
  group: string;
  options: Option<V>[];
}
export type Given<V> = V | Option<V> | OptionGroup<V>;

const isObject = (one: unknown): one is object => typeof one === "object" && one !== null;
const isGroup = <V>(one: Given<V>): one is OptionGroup<V> => isObject(one) && "group" in one;

/** Options in one form; words become options that are called by themselves. */
export function optionsOf<V>(given: readonly Given<V>[]): (Option<V> | OptionGroup<V>)[] {
  return given.map((one) => {
    if (isGroup<V>(one)) return one;
    if (isObject(one) && "value" in one && "label" in one) return one;
    return { value: one, label: String(one) };
  });
}

export const countOf = <V>(options: (Option<V> | OptionGroup<V>)[]): number =>
  options.reduce((sum, one) => sum + ("group" in one ? one.options.length : 1), 0);

/** Values with their labels from objects that have an id or a name. */
export const named = <T, K extends keyof T, L extends keyof T>(all: readonly T[], value: K, label: L) =>
  all.map((one) => ({ value: one[value], label: String(one[label]) }));
