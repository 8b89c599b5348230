<script setup lang="ts">
import MultiSelect from "primevue/multiselect";

import type { FormatsDocument } from "@/api/rules";
import type { Catalogue } from "@/api/types";
import { t } from "@/texts/rules";

import { byFamily } from "./families";

/** What is allowed for each kind of map: those chosen in a line, those that fit it in the list, by family. */
type Allowed = FormatsDocument["allowed"];
type Sort = keyof Allowed;
const props = defineProps<{
  allowed: Allowed;
  sorts: Catalogue["sorts"];
  formats: Catalogue["formats"];
  mayChange: boolean;
}>();
const emit = defineEmits<{ change: [sort: Sort, formats: string[]] }>();

const bits = (value: number) => t("bitsPerTexel", { bits: Number(value.toFixed(2)) });
const optionsOf = (sort: string) =>
  byFamily(props.formats.filter((one) => one.sorts.includes(sort))).map(({ family, formats }) => ({
    group: family,
    options: formats.map((one) => ({ value: one.key, label: one.label, help: bits(one.bits_per_texel) })),
  }));
const labelOf = (key: string) => props.formats.find((one) => one.key === key)?.label ?? key;
</script>

<template>
  <div class="allowed">
    <template v-for="one in sorts" :key="one.sort">
      <span>{{ one.title }}</span>
      <MultiSelect
        :model-value="allowed[one.sort as Sort] ?? []"
        :options="optionsOf(one.sort)"
        option-group-label="group"
        option-group-children="options"
        option-label="label"
        option-value="value"
        display="chip"
        filter
        auto-filter-focus
        :placeholder="t('noneAllowed')"
        :aria-label="t('formatsAllowedFor', { title: one.title })"
        :disabled="!mayChange"
        :data-sort="one.sort"
        @update:model-value="emit('change', one.sort as Sort, $event)"
      >
        <template #option="{ option }">
          <span class="option"
            >{{ option.label }} <span class="soft">{{ option.help }}</span></span
          >
        </template>
        <template #chip="{ value }">
          <span class="chip">{{ labelOf(value) }}</span>
        </template>
      </MultiSelect>
    </template>
  </div>
</template>

<style scoped>
.allowed {
  display: grid;
  grid-template-columns: 13rem minmax(0, 44rem);
  gap: var(--space-1) var(--space-3);
  align-items: center;
}
.option {
  display: flex;
  gap: var(--space-4);
  justify-content: space-between;
  width: 100%;
}
.chip {
  border: 1px solid var(--line-strong);
  border-radius: var(--radius);
  padding: 0 var(--space-1);
}
.allowed :deep(.p-multiselect-label) {
  flex-wrap: wrap;
}
</style>
