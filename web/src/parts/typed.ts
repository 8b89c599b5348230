import type { Directive } from "vue";

const textOf = (value: unknown): string => (value === null || value === undefined ? "" : String(value));

/** The value of a text field; what somebody is typing stays, whatever else the page draws anew meanwhile. */
export const vTyped: Directive<HTMLInputElement, unknown> = {
  mounted: (field, { value }) => {
    field.value = textOf(value);
  },
  updated: (field, { value }) => {
    if (document.activeElement !== field && field.value !== textOf(value)) field.value = textOf(value);
  },
};

/** The word chosen in a list whose options are exactly the words of ``T``. */
export const chosen = <T extends string | undefined>(event: Event): T =>
  (event.target as HTMLSelectElement).value as T;
