<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref, useId, watch } from "vue";

import { useRoll } from "@/api/queries";
import { useSetChanges } from "@/api/setChanges";
import { type LicencesDocument, useRules } from "@/api/rules";

/** Under which licence sets came, and who is to be named; those of the rules and of other sets are offered. */
const props = defineProps<{ slug: string; sets: number[] }>();
const emit = defineEmits<{ said: [] }>();
const roll = useRoll(() => props.slug);
const rules = useRules(() => props.slug, "licences");
const changes = useSetChanges(() => props.slug);
const list = useId();

const chosen = computed(() => (roll.data.value?.sets ?? []).filter((one) => props.sets.includes(one.id)));
/** What all of them have; nothing where they differ. */
const common = (key: "licence" | "credit"): string => {
  const values = new Set(chosen.value.map((one) => one[key]));
  return values.size === 1 ? [...values][0]! : "";
};
const licence = ref("");
const credit = ref("");
watch(
  () => [props.sets.join(), common("licence"), common("credit")],
  ([, name, credited]) => ([licence.value, credit.value] = [name!, credited!]),
  { immediate: true },
);
const known = computed(() => {
  const document = rules.data.value?.[0]?.document as LicencesDocument | undefined;
  const names = (document?.terms ?? []).map((one) => one.licence);
  return [...new Set([...names, ...(roll.data.value?.sets ?? []).map((one) => one.licence)])].filter(Boolean);
});

function say(): void {
  changes.licence.mutate(
    { sets: props.sets, licence: licence.value, credit: credit.value },
    { onSuccess: () => emit("said") },
  );
}
</script>

<template>
  <form class="licence" @submit.prevent="say">
    <label
      >Licence
      <input
        v-model="licence"
        :list="list"
        maxlength="100"
        placeholder="unknown"
        title="SPDX identifier, such as CC0-1.0, or LicenseRef- and a word of your own"
      />
    </label>
    <datalist :id="list">
      <option v-for="name in known" :key="name" :value="name" />
    </datalist>
    <label
      >To be named <input v-model="credit" maxlength="300" :disabled="!licence" placeholder="nobody"
    /></label>
    <Button
      type="submit"
      size="small"
      :label="sets.length > 1 ? `Say so of ${sets.length} sets` : 'Say so'"
      :disabled="!sets.length"
    />
  </form>
</template>

<style scoped>
.licence {
  display: grid;
  gap: 6px;
  justify-items: start;
}
label {
  display: grid;
  grid-template-columns: 90px 190px;
  align-items: center;
}
input {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 3px 5px;
}
</style>
