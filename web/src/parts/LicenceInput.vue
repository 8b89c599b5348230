<script setup lang="ts">
import AutoComplete, { type AutoCompleteCompleteEvent } from "primevue/autocomplete";
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { computed, ref, useId, watch } from "vue";

import { useSets } from "@/api/queries";
import { useSetChanges } from "@/api/setChanges";
import { type LicencesDocument, useRules } from "@/api/rules";
import { t } from "@/texts/parts";

/** Under which licence sets came, and who is to be credited; those of the rules and of other sets are offered. */
const props = defineProps<{ slug: string; sets: number[] }>();
const emit = defineEmits<{ said: [] }>();
const setList = useSets(() => props.slug);
const rules = useRules(() => props.slug, "licences");
const changes = useSetChanges(() => props.slug);
const id = useId();

const chosen = computed(() => {
  const ids = new Set(props.sets);
  return (setList.data.value?.sets ?? []).filter((one) => ids.has(one.id));
});
/** What all of them have; nothing where they differ. */
const common = (key: "licence" | "credit"): string => {
  const values = new Set(chosen.value.map((one) => one[key]));
  return values.size === 1 ? [...values][0]! : "";
};
const licence = ref("");
const credit = ref("");
watch(
  [() => props.sets.join(), () => common("licence"), () => common("credit")],
  ([sets, name, credited], [setsBefore, nameBefore, creditedBefore]) => {
    // What is being typed stays when others change the licence meanwhile.
    if (sets !== setsBefore || licence.value === nameBefore) licence.value = name;
    if (sets !== setsBefore || credit.value === creditedBefore) credit.value = credited;
  },
  { immediate: true },
);
const known = computed(() => {
  const document = rules.data.value?.[0]?.document as LicencesDocument | undefined;
  const names = (document?.terms ?? []).map((one) => one.licence);
  const inUse = (setList.data.value?.sets ?? []).map((one) => one.licence);
  return [...new Set([...names, ...inUse])].filter(Boolean);
});
const offered = ref<string[]>([]);
function offer(event: AutoCompleteCompleteEvent): void {
  const typed = event.query.toLowerCase();
  offered.value = known.value.filter((one) => one.toLowerCase().includes(typed));
}

function save(): void {
  void changes.licence.mutate(
    { sets: props.sets, licence: licence.value, credit: credit.value },
    { onSuccess: () => emit("said") },
  );
}
</script>

<template>
  <form @submit.prevent="save">
    <div class="fields">
      <label :for="`${id}-licence`">{{ t("licence") }}</label>
      <AutoComplete
        v-model="licence"
        :input-id="`${id}-licence`"
        :suggestions="offered"
        complete-on-focus
        maxlength="100"
        :placeholder="t('unknown')"
        :title="t('spdxIdentifierSuchAsCc01')"
        @complete="offer"
      />
      <label :for="`${id}-credit`">{{ t("attribution") }}</label>
      <InputText
        :id="`${id}-credit`"
        v-model="credit"
        maxlength="300"
        :disabled="!licence"
        :placeholder="t('nobody')"
      />
    </div>
    <Button
      type="submit"
      :label="sets.length > 1 ? t('setLicenceOfSets', { count: sets.length }) : t('setLicence')"
      :disabled="!sets.length"
    />
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: var(--space-2);
  justify-items: start;
}
.fields {
  width: 18rem;
}
</style>
