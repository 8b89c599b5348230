import type { Ref } from "vue";

import type { Cast, ParameterValue } from "@/api/materials";

import { documentValue } from "./values";

const FORMAT = "fair-texel/changes";

/** What a cast changes, to the clipboard and from there into another cast. */
export function useCopiedChanges(
  cast: Readonly<Ref<Cast | null>>,
  take: (changes: Record<string, ParameterValue | null>) => Promise<unknown>,
) {
  async function copy(): Promise<void> {
    const { changed, sheet, values } = cast.value!;
    const kept = changed.map((name) => {
      const parameter = sheet.parameters.find((one) => one.name === name)!;
      return [name, documentValue(parameter, values[name]!)];
    });
    await navigator.clipboard.writeText(
      JSON.stringify({ format: FORMAT, changes: Object.fromEntries(kept) as unknown }),
    );
  }
  async function paste(): Promise<void> {
    try {
      const given = JSON.parse(await navigator.clipboard.readText()) as {
        format?: string;
        changes?: Record<string, ParameterValue | null>;
      };
      if (given.format === FORMAT && given.changes) await take(given.changes);
    } catch {
      /* What lies on the clipboard is something else. */
    }
  }
  return { copy, paste };
}
