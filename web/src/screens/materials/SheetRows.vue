<script setup lang="ts">
import { computed, ref } from "vue";

import type { Operation, Problem, Sheet, SheetParameter, SheetRow } from "@/api/materials";
import Mark from "@/parts/Mark.vue";

import ChainEditor from "./ChainEditor.vue";
import ChainLine from "./ChainLine.vue";
import ParameterControl from "./ParameterControl.vue";

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
}>();
const emit = defineEmits<{
  move: [name: string, value: number[]];
  keep: [name: string, value: number[]];
  back: [name: string];
  write: [row: SheetRow, text: string];
  drop: [row: SheetRow];
}>();
const open = ref("");
const search = defineModel<string>("search", { default: "" });

const parameters = computed(() => new Map(props.sheet.parameters.map((one) => [one.name, one])));
const isWanted = (one: SheetParameter) => {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean);
  return words.every((word) =>
    `${one.title} ${one.name} ${one.group} ${one.help}`.toLowerCase().includes(word),
  );
};
/** Each parameter once: beside the first row that reads it; those that no row reads stand at the end. */
const margins = computed(() => {
  const left = new Map(parameters.value);
  const found = props.sheet.rows.map((row) => {
    const own = row.reads.map((name) => left.get(name)).filter((one) => one !== undefined);
    own.forEach((one) => left.delete(one.name));
    return { row, own: own.filter(isWanted) };
  });
  return { rows: found, rest: [...left.values()].filter(isWanted) };
});
/** Rows of one layer stand together; what follows from stacking comes last, folded away until it is asked for. */
const groups = computed(() => {
  if (!props.sheet.layered) return [{ title: "", rows: margins.value.rows }];
  const found = new Map<string, typeof margins.value.rows>();
  for (const one of margins.value.rows) {
    const key = one.row.origin?.layer ?? "";
    found.set(key, [...(found.get(key) ?? []), one]);
  }
  const layers = [...found].filter(([key]) => key).map(([key, rows]) => ({ title: key, rows }));
  return [...layers, { title: "How they are stacked", rows: found.get("") ?? [] }];
});
const folded = ref(true);
const isShown = (title: string, own: SheetParameter[]) =>
  title !== "How they are stacked" || !folded.value || own.length > 0;
/** Rows that follow from stacking are read alone. */
const canWrite = (row: SheetRow) => props.mayWrite && (!props.sheet.layered || row.origin !== null);
const remarksOf = (row: string) => props.sheet.remarks.filter((one) => one.row === row);
</script>

<template>
  <div class="sheet" role="group" aria-label="Sheet">
    <template v-for="group in groups" :key="group.title">
      <h2 v-if="group.title">
        {{ group.title }}
        <button v-if="group.title === 'How they are stacked'" class="plain cure" @click="folded = !folded">
          {{ folded ? `Show all ${group.rows.length} rows` : "Only those with parameters" }}
        </button>
      </h2>
      <div
        v-for="{ row, own } in group.rows.filter((one) => isShown(group.title, one.own))"
        :key="`${row.is_input} ${row.name}`"
        class="row"
        role="group"
        :aria-label="row.label"
        :data-row="row.name"
      >
        <div class="label" :class="{ named: !row.is_input && !row.origin?.is_input }">
          {{ row.label }}
          <span class="soft">{{ row.is_input || row.origin?.is_input ? "" : "row" }}</span>
        </div>
        <div class="reads">
          <component
            :is="canWrite(row) ? 'button' : 'div'"
            class="plain line"
            :aria-expanded="canWrite(row) ? open === row.name : undefined"
            @click="canWrite(row) && (open = open === row.name ? '' : row.name)"
          >
            <ChainLine :chain="row.chain" :operations="operations" />
          </component>
          <ChainEditor
            v-if="open === row.name && canWrite(row)"
            :row="row"
            :sheet="sheet"
            :operations="operations"
            :problem="problem?.row === row.name ? problem : null"
            @write="emit('write', row, $event)"
            @drop="emit('drop', row)"
          />
          <p v-if="problem?.row === row.name && open !== row.name" class="remark wrong" role="alert">
            {{ problem.message }}
          </p>
          <p v-for="(remark, at) in remarksOf(row.name)" :key="at" class="remark" :data-remark="remark.check">
            <Mark :severity="remark.severity" /> {{ remark.message }}
            <button
              v-if="remark.remedy && canWrite(row)"
              class="plain cure"
              @click="emit('write', row, remark.remedy!)"
            >
              Write <span class="mono">{{ remark.remedy }}</span>
            </button>
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
    <div v-if="margins.rest.length" class="row" role="group" aria-label="Coordinates">
      <div class="label">Coordinates</div>
      <div class="soft reads">where slots are read</div>
      <div class="margin">
        <ParameterControl
          v-for="one in margins.rest"
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
.row {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr) 250px;
  gap: 12px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
  font-size: 12px;
}
h2 {
  font-size: 13px;
  padding: 10px 0 4px;
}
h2 .wrong {
  color: var(--error);
}
.cure {
  font-weight: 400;
  font-size: 12px;
  margin-left: 8px;
}
.label {
  font-weight: 650;
}
.named {
  font-family: var(--mono);
}
.margin {
  display: grid;
  gap: 3px;
  align-content: start;
}
.line {
  width: 100%;
}
button.line:hover {
  background: var(--accent-wash);
}
.remark {
  margin: 4px 0 0;
}
.cure {
  color: var(--accent);
}
</style>
