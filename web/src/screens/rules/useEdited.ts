import { computed, ref, shallowRef, watch } from "vue";

import { merged } from "@/api/conflicts";
import type { Rule } from "@/api/rules";

/** A rule's document while it is edited: a copy, saved as a new version when asked to. */
export function useEdited<T>(rule: () => Rule | null) {
  const document = ref<T | null>(null);
  /** The version that was there when editing began. */
  const seen = shallowRef<Rule | null>(null);
  const saved = computed(() => JSON.stringify(rule()?.document ?? null));
  const dirty = computed(() => document.value !== null && JSON.stringify(document.value) !== saved.value);

  function discard(): void {
    document.value = JSON.parse(saved.value) as T | null;
    seen.value = rule();
  }
  // A version that somebody else saves meanwhile does not take away what is being edited.
  watch(
    [() => rule()?.name, () => rule()?.number, saved] as const,
    ([name], before) => {
      const edited = document.value !== null && JSON.stringify(document.value) !== before?.[2];
      if (name !== before?.[0] || !edited || !dirty.value) discard();
    },
    { immediate: true },
  );

  /** Change some keys; undefined takes one out. */
  function set(change: Partial<T>): void {
    if (document.value === null) return;
    const next = { ...(document.value as object), ...change } as Record<string, unknown>;
    for (const key of Object.keys(next)) if (next[key] === undefined) delete next[key];
    document.value = next as T;
  }
  /** Save it by ``put``; what is edited while that goes on stays edited, on top of what was saved. */
  async function save(put: (document: T, seen: Rule | null) => Promise<Rule | null>): Promise<void> {
    if (document.value === null) return;
    const [sent, name] = [document.value as T, rule()?.name];
    const made = await put(sent, seen.value);
    if (!made || rule()?.name !== name) return;
    document.value = merged(sent, document.value as T, made.document as T).value;
    seen.value = made;
  }
  return { document, dirty, discard, save, seen, set };
}
