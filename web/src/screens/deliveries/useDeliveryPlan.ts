import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { useMaterials } from "@/api/materials";
import { usePlan, useProject, useSets } from "@/api/queries";

/** What is going to be delivered: the target, the sets, and the plan of the files. */
export function useDeliveryPlan(slug: () => string) {
  const route = useRoute();
  const project = useProject(slug);
  const setList = useSets(slug);
  const asked = String(route.query.sets ?? "")
    .split(",")
    .map(Number)
    .filter(Boolean);
  const chosenTarget = ref(String(route.query.target ?? ""));
  const target = computed({
    get: () => chosenTarget.value || (project.data.value?.target ?? ""),
    set: (name) => (chosenTarget.value = name),
  });
  const sets = computed(() => setList.data.value?.sets ?? []);
  const left = ref(new Set<number>());
  const picked = ref(false);
  // Sets with errors wait for somebody to say so; those asked for in the list are taken as asked.
  watch(
    sets,
    (all) => {
      if (picked.value || !all.length) return;
      picked.value = true;
      left.value = new Set(
        all.filter((one) => (asked.length ? !asked.includes(one.id) : one.errors > 0)).map((one) => one.id),
      );
    },
    { immediate: true },
  );
  const going = computed({
    get: () => sets.value.filter((one) => !left.value.has(one.id)).map((one) => one.id),
    set: (ids) => (left.value = new Set(sets.value.map((one) => one.id).filter((id) => !ids.includes(id)))),
  });
  const materials = useMaterials(slug);
  const casts = computed(() => materials.data.value?.casts ?? []);
  const kept = `fair-texel-delivered-casts-${slug()}`;
  const chosenCasts = ref(JSON.parse(localStorage.getItem(kept) ?? "[]") as number[]);
  watch(chosenCasts, (ids) => localStorage.setItem(kept, JSON.stringify(ids)));
  /** Those that were chosen, here or another time, and are still there. */
  const goingCasts = computed({
    get: () => casts.value.filter((one) => chosenCasts.value.includes(one.id)).map((one) => one.id),
    set: (ids) => (chosenCasts.value = ids),
  });
  const leaving = computed(
    () => going.value.length < sets.value.length || goingCasts.value.length < casts.value.length,
  );
  /** What is not chosen stays as it was delivered; without it, it is no part of the delivery. */
  const keepOthers = ref(true);
  const keeping = computed(() => keepOthers.value && leaving.value);
  const plan = usePlan(slug, target, going, goingCasts, keeping);
  /** Named like maps, but in no set: what is delivered lacks them. */
  const undecided = computed(() => (setList.data.value?.undecided ?? []).filter((one) => one.suffix));
  /** Sets with errors that the plan writes something of; those it has to leave out are told with it. */
  const withErrors = computed(() => {
    const written = new Set((plan.data.value?.files ?? []).map((file) => file.set));
    return sets.value.filter((one) => one.errors && !left.value.has(one.id) && written.has(one.name)).length;
  });
  return {
    target,
    sets,
    going,
    casts,
    goingCasts,
    leaving,
    keepOthers,
    keeping,
    plan,
    undecided,
    withErrors,
  };
}
