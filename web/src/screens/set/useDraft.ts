import { computed, ref, shallowRef, watch } from "vue";

import { newStep, previewOf, type RecipeStep, type StepKind, stepsOf } from "@/api/recipes";
import type { TextureMap } from "@/api/types";

/** Steps being tried on one map: shown at once, applied only when asked to. */
export function useDraft(slug: () => string, map: () => TextureMap | null) {
  const steps = ref<RecipeStep[]>([]);
  /** The map as it was when these steps began to be edited. */
  const seen = shallowRef<TextureMap | null>(null);
  /** What the steps are called when they are applied, such as the remedy that they come from. */
  const label = ref("");
  const kept = computed(() => (map() ? stepsOf(map()!) : []));
  const dirty = computed(() => JSON.stringify(steps.value) !== JSON.stringify(kept.value));
  const preview = computed(() => (dirty.value && map() ? previewOf(slug(), map()!, steps.value) : null));

  function discard(): void {
    steps.value = kept.value.map((one) => ({ ...one }));
    label.value = "";
    seen.value = map();
  }
  // What somebody else kept meanwhile does not take away what is being tried; both are shown when it is kept.
  watch(
    [() => map()?.id, () => JSON.stringify(kept.value)],
    ([id], before) => {
      const tried = JSON.stringify(steps.value) !== before?.[1];
      if (id !== before?.[0] || !tried || !dirty.value) discard();
    },
    { immediate: true },
  );

  function change(next: RecipeStep[]): void {
    steps.value = next;
  }
  return {
    steps,
    seen,
    dirty,
    preview,
    discard,
    label,
    /** A finding's remedy: one more step behind those that are applied. */
    tryStep: (step: RecipeStep, called: string) => {
      discard();
      steps.value = [...steps.value, step];
      label.value = called;
    },
    add: (kind: StepKind) => change([...steps.value, newStep(kind, map()!)]),
    remove: (index: number) => change(steps.value.filter((_, at) => at !== index)),
    move: (from: number, by: number) => {
      const next = [...steps.value];
      const [one] = next.splice(from, 1);
      next.splice(Math.max(0, Math.min(next.length, from + by)), 0, one!);
      change(next);
    },
    toggle: (index: number) =>
      change(
        steps.value.map((one, at) => {
          if (at !== index) return one;
          const { off, ...rest } = one;
          return off ? rest : { ...rest, step: one.step, off: true };
        }),
      ),
    set: (index: number, option: string, value: unknown) =>
      change(steps.value.map((one, at) => (at === index ? { ...one, [option]: value } : one))),
  };
}
export type Draft = ReturnType<typeof useDraft>;
