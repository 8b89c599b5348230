import { computed, type ComputedRef, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { useMaterials } from "@/api/materials";
import { useGrounds } from "@/api/ground";
import { useModels } from "@/api/models";
import { usePlan, useProject, useSets } from "@/api/queries";

/** Some of several things, kept in the browser: those that were chosen, here or another time, and are still there. */
function useKeptChoice(kept: string, all: ComputedRef<{ id: number }[]>) {
  const chosen = ref(JSON.parse(localStorage.getItem(kept) ?? "[]") as number[]);
  watch(chosen, (ids) => localStorage.setItem(kept, JSON.stringify(ids)));
  return computed({
    get: () => all.value.filter((one) => chosen.value.includes(one.id)).map((one) => one.id),
    set: (ids) => (chosen.value = ids),
  });
}

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
  const goingCasts = useKeptChoice(`fair-texel-delivered-casts-${slug()}`, casts);
  const modelList = useModels(slug);
  const models = computed(() => modelList.data.value ?? []);
  const goingModels = useKeptChoice(`fair-texel-delivered-models-${slug()}`, models);
  const groundList = useGrounds(slug);
  const grounds = computed(() => groundList.data.value ?? []);
  const goingGrounds = useKeptChoice(`fair-texel-delivered-ground-${slug()}`, grounds);
  const leaving = computed(
    () =>
      going.value.length < sets.value.length ||
      goingCasts.value.length < casts.value.length ||
      goingModels.value.length < models.value.length ||
      goingGrounds.value.length < grounds.value.length,
  );
  /** What is not chosen stays as it was delivered; without it, it is no part of the delivery. */
  const keepOthers = ref(true);
  const keeping = computed(() => keepOthers.value && leaving.value);
  const ordered = computed(() => ({
    target: target.value,
    sets: going.value,
    casts: goingCasts.value,
    models: goingModels.value,
    grounds: goingGrounds.value,
    keep_others: keeping.value,
  }));
  const plan = usePlan(slug, ordered);
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
    models,
    goingModels,
    grounds,
    goingGrounds,
    leaving,
    keepOthers,
    ordered,
    plan,
    undecided,
    withErrors,
  };
}
