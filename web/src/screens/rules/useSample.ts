import { computed, ref } from "vue";

import { useSets } from "@/api/queries";

/** The set that a rule is shown on: the one chosen, or the project's first. */
export function useSample(slug: () => string) {
  const setList = useSets(slug);
  const chosen = ref<number | null>(null);
  const sets = computed(() => setList.data.value?.sets ?? []);
  const sample = computed(() => sets.value.find((one) => one.id === chosen.value) ?? sets.value[0] ?? null);
  const roles = computed(() => setList.data.value?.roles ?? []);
  return { sets, sample, roles, choose: (id: number) => (chosen.value = id) };
}
