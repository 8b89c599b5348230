import { computed, ref, watch } from "vue";

import type { Rule } from "@/api/rules";

/** A rule's document while it is edited: a copy, kept as a new version when asked to. */
export function useEdited<T>(rule: () => Rule | null) {
  const document = ref<T | null>(null);
  const kept = computed(() => JSON.stringify(rule()?.document ?? null));
  const dirty = computed(() => document.value !== null && JSON.stringify(document.value) !== kept.value);

  function discard(): void {
    document.value = JSON.parse(kept.value) as T | null;
  }
  watch(() => [rule()?.name, rule()?.number, kept.value], discard, { immediate: true });

  /** Change some keys; undefined takes one out. */
  function set(change: Partial<T>): void {
    if (document.value === null) return;
    const merged = { ...(document.value as object), ...change } as Record<string, unknown>;
    for (const key of Object.keys(merged)) if (merged[key] === undefined) delete merged[key];
    document.value = merged as T;
  }
  return { document, dirty, discard, set };
}
