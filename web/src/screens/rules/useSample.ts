import { computed, ref } from "vue";

import { useRoll } from "@/api/queries";

/** The set that a rule is shown on: the one chosen, or the project's first. */
export function useSample(slug: () => string) {
  const roll = useRoll(slug);
  const chosen = ref<number | null>(null);
  const sets = computed(() => roll.data.value?.sets ?? []);
  const sample = computed(() => sets.value.find((one) => one.id === chosen.value) ?? sets.value[0] ?? null);
  const roles = computed(() => roll.data.value?.roles ?? []);
  return { sets, sample, roles, choose: (id: number) => (chosen.value = id) };
}
