<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import type { Operation, Problem, Sheet, SheetParameter, SheetRow } from "@/api/materials";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/materials";

import ChainEditor from "./ChainEditor.vue";
import ChainLine from "./ChainLine.vue";
import ParameterControl from "./ParameterControl.vue";

/** One row of a sheet: what it sets, how it is computed from left to right, and the parameters that it reads first. */
const props = defineProps<{
  row: SheetRow;
  own: SheetParameter[];
  sheet: Sheet;
  operations: Operation[];
  values: Record<string, number[]>;
  changed: string[];
  inherited: string[];
  mayChange: boolean;
  canWrite: boolean;
  open: boolean;
  problem: Problem | null;
  /** It cannot be taken out. */
  kept?: boolean;
}>();
const emit = defineEmits<{
  toggle: [];
  write: [text: string];
  drop: [];
  move: [name: string, value: number[]];
  keep: [name: string, value: number[]];
  back: [name: string];
}>();
const isInput = computed(() => props.row.is_input || props.row.origin?.is_input);
const remarks = computed(() => props.sheet.remarks.filter((one) => one.row === props.row.name));
</script>

<template>
  <div class="sheet-row" role="group" :aria-label="row.label" :data-row="row.name">
    <div class="label" :class="{ mono: !isInput && !kept }">
      {{ row.label }} <span v-if="!isInput && !kept" class="soft">{{ t("row") }}</span>
    </div>
    <div>
      <div class="line">
        <ChainLine :chain="row.chain" :operations="operations" />
        <Button
          v-if="canWrite"
          text
          :icon="open ? 'pi pi-angle-up' : 'pi pi-pencil'"
          :aria-label="open ? t('close', { label: row.label }) : t('edit', { label: row.label })"
          :title="open ? t('close2') : t('edit2')"
          :aria-expanded="open"
          class="edit"
          @click="emit('toggle')"
        />
      </div>
      <ChainEditor
        v-if="open && canWrite"
        :row="row"
        :sheet="sheet"
        :operations="operations"
        :problem="problem"
        :kept="kept"
        @write="emit('write', $event)"
        @drop="emit('drop')"
      />
      <p v-else-if="problem" class="error" role="alert">{{ problem.message }}</p>
      <p v-for="(remark, at) in remarks" :key="at" class="row" :data-remark="remark.check">
        <Mark :severity="remark.severity" /> {{ remark.message }}
        <Button v-if="remark.remedy && canWrite" text @click="emit('write', remark.remedy!)">
          {{ t("changeTo") }}
          <span class="mono">{{ remark.remedy }}</span>
        </Button>
      </p>
    </div>
    <div class="margin">
      <ParameterControl
        v-for="one in own"
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
</template>

<style scoped>
.sheet-row {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr) 300px;
  gap: var(--space-3);
  padding: 4px 0;
  border-top: 1px solid var(--line);
}
.label {
  font-weight: 650;
  padding-top: 4px;
  overflow-wrap: anywhere;
}
.line {
  display: flex;
  align-items: center;
  min-height: 26px;
}
.edit {
  margin-left: auto;
}
.margin {
  display: grid;
  gap: 3px;
  align-content: start;
}
</style>
