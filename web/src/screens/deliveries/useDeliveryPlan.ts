import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";

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
  /** Sets that are not chosen stay as they were delivered; without it they are no part of the delivery. */
  const keepOthers = ref(true);
  const keeping = computed(() => keepOthers.value && going.value.length < sets.value.length);
  const plan = usePlan(slug, target, going, keeping);
  /** Named like maps, but in no set: what is delivered lacks them. */
  const undecided = computed(() => (setList.data.value?.undecided ?? []).filter((one) => one.suffix));
  /** Sets with errors that the plan writes something of; those it has to leave out are told with it. */
  const withErrors = computed(() => {
    const written = new Set((plan.data.value?.files ?? []).map((file) => file.set));
    return sets.value.filter((one) => one.errors && !left.value.has(one.id) && written.has(one.name)).length;
  });
  return { target, sets, going, keepOthers, keeping, plan, undecided, withErrors };
}
