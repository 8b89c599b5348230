<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import type { Operation, Problem, Sheet, SheetRow as Row } from "@/api/materials";
import { t } from "@/texts/materials";

import ParameterControl from "./ParameterControl.vue";
import SheetRow from "./SheetRow.vue";
import { rowGroups, STACKED } from "./sheetGroups";

/** A sheet: rows that read from left to right, and in the margin the parameters that each row is the first to use. */
const props = defineProps<{
  sheet: Sheet;
  operations: Operation[];
  values: Record<string, number[]>;
  changed: string[];
  inherited: string[];
  mayChange: boolean;
  mayWrite: boolean;
  problem: Problem | null;
  /** A row that cannot be taken out. */
  kept?: string;
}>();
const emit = defineEmits<{
  move: [name: string, value: number[]];
  keep: [name: string, value: number[]];
  back: [name: string];
  write: [row: Row, text: string];
  drop: [row: Row];
}>();
const open = ref("");
const search = defineModel<string>("search", { default: "" });
const folded = ref(true);
const groups = computed(() => rowGroups(props.sheet, search.value, folded.value));
/** Rows that follow from stacking are read-only. */
const canWrite = (row: Row) => props.mayWrite && (!props.sheet.layered || row.origin !== null);
</script>

<template>
  <div class="sheet" role="group" :aria-label="t('sheet')">
    <template v-for="group in groups.groups" :key="group.title">
      <h3 v-if="group.title" class="row">
        {{ group.title }}
        <Button
          v-if="group.title === STACKED"
          text
          :label="folded ? t('showAllRows', { count: group.count }) : t('onlyRowsWithParameters')"
          @click="folded = !folded"
        />
      </h3>
      <SheetRow
        v-for="{ row, own } in group.rows"
        :key="`${row.is_input} ${row.name}`"
        :row="row"
        :own="own"
        :sheet="sheet"
        :operations="operations"
        :values="values"
        :changed="changed"
        :inherited="inherited"
        :may-change="mayChange"
        :can-write="canWrite(row)"
        :open="open === row.name"
        :kept="row.name === kept"
        :problem="problem?.row === row.name ? problem : null"
        @toggle="open = open === row.name ? '' : row.name"
        @write="(text) => emit('write', row, text)"
        @drop="emit('drop', row)"
        @move="(name, value) => emit('move', name, value)"
        @keep="(name, value) => emit('keep', name, value)"
        @back="(name) => emit('back', name)"
      />
    </template>
    <div v-if="groups.rest.length" class="rest" role="group" :aria-label="t('coordinates')">
      <div>
        <b>{{ t("coordinates") }}</b>
        <span class="soft"> {{ t("ofTheSlots") }}</span>
      </div>
      <div class="margin">
        <ParameterControl
          v-for="one in groups.rest"
          :key="one.name"
          :parameter="one"
          :value="values[one.name] ?? one.default"
          :changed="changed.includes(one.name)"
          :inherited="inherited.includes(one.name)"
          :may-change="mayChange"
          @move="emit('move', one.name, $event)"
          @keep="emit('keep', one.name, $event)"
          @back="emit('back', one.name)"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
h3 {
  padding: 10px 0 4px;
}
.rest {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: var(--space-3);
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
.margin {
  display: grid;
  gap: 3px;
  align-content: start;
}
</style>
