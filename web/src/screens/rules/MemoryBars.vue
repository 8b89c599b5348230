<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import { type Budget, type BudgetSet, memoryWords } from "@/api/rules";
import { useSetChanges } from "@/api/setChanges";
import NumberField from "@/parts/fields/NumberField.vue";
import { t } from "@/texts/rules";

import AdviceList from "./AdviceList.vue";
import { type By, groupsOf } from "./memory";

/** Memory by set, role or output, as bars; one opens into its files with the advice on each. */
const props = defineProps<{ slug: string; told: Budget; by: By; mayPrepare: boolean }>();
const MIB = 1 << 20;
const changes = useSetChanges(() => props.slug);
const open = ref<string | null>(null);

const groups = computed(() => groupsOf(props.told, props.by));
const opened = computed(() => groups.value.find((one) => one.key === open.value) ?? null);
const shown = computed(() => (opened.value ? [opened.value] : groups.value));
const setOf = (name: string) => props.told.sets.find((one) => one.name === name);
const openedFiles = computed(() => {
  const paths = new Set(opened.value?.parts.map((one) => one.path));
  return props.told.sets.flatMap((one) => one.files).filter((file) => paths.has(file.path));
});
/** Greys tell outputs apart, and the legend says which; they mean nothing else. */
const outputs = computed(() => [
  ...new Set(props.told.sets.flatMap((one) => one.files.map((file) => file.output))),
]);
const shade = (output: string) => `var(--shade-${1 + (outputs.value.indexOf(output) % 6)})`;
const largest = computed(() => Math.max(1, ...shown.value.map((one) => one.memory)));
const wide = (bytes: number) => `${(100 * bytes) / largest.value}%`;
const overSet = (bytes: number) =>
  props.by === "set" && Boolean(props.told.budget.set_mib) && bytes > (props.told.budget.set_mib ?? 0) * MIB;
function density(one: BudgetSet | undefined): string {
  const wanted = props.told.budget.density;
  if (!one || one.density === null) return "";
  const rest = wanted ? t("ofTheStandard", { wanted: Math.round((100 * one.density) / wanted) }) : "";
  return t("texelsPerMetre", { density: Math.round(one.density), rest });
}
</script>

<template>
  <div class="row legend">
    <span v-for="one in outputs" :key="one" class="row"
      ><i :style="{ background: shade(one) }" aria-hidden="true" /> {{ one }}</span
    >
    <Button v-if="opened" text :label="t('showAll')" icon="pi pi-arrow-left" @click="open = null" />
  </div>
  <ol class="bars" :class="by">
    <li v-for="one in shown" :key="one.key" :data-group="one.key">
      <Button
        text
        severity="secondary"
        class="name"
        :aria-expanded="open === one.key"
        :label="by === 'role' ? one.key.replaceAll('_', ' ') : one.key"
        @click="open = open === one.key ? null : one.key"
      />
      <div class="bar" :title="memoryWords(one.memory)">
        <span
          v-for="part in one.parts"
          :key="part.path"
          :style="{ width: wide(part.memory), background: shade(part.output) }"
          :title="`${part.words}: ${memoryWords(part.memory)}`"
        />
      </div>
      <span class="number" :class="{ error: overSet(one.memory) }">{{ memoryWords(one.memory) }}</span>
      <template v-if="by === 'set' && setOf(one.key)">
        <NumberField
          :value="setOf(one.key)!.metres"
          :label="t('metresThatCovers', { key: one.key })"
          :min="0.01"
          :step="0.1"
          unit="m"
          optional
          :placeholder="t('metres')"
          :disabled="!mayPrepare"
          @change="changes.metres.mutate({ set: setOf(one.key)!.id, metres: $event })"
        />
        <span class="soft">{{ density(setOf(one.key)) }}</span>
      </template>
      <span v-else class="soft">{{ Math.round((100 * one.memory) / told.memory) }} %</span>
    </li>
  </ol>
  <AdviceList v-if="opened" :files="openedFiles" />
</template>

<style scoped>
.legend i {
  display: inline-block;
  width: 10px;
  height: 10px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
}
.bars li {
  display: grid;
  grid-template-columns: 10rem minmax(0, 1fr) 6rem 6rem 12rem;
  gap: var(--space-3);
  align-items: center;
  padding: var(--space-1) 0;
  border-top: 1px solid var(--line);
}
.bars:not(.set) li {
  grid-template-columns: 10rem minmax(0, 1fr) 6rem 4rem;
}
.name {
  justify-content: start;
  text-align: left;
}
.bar {
  display: flex;
  height: 20px;
  overflow: hidden;
}
.bar span {
  border-right: 1px solid var(--paper);
}
.number {
  text-align: right;
}
.bars :deep(.number-field) {
  width: 6rem;
}
</style>
