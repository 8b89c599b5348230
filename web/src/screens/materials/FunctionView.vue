<script setup lang="ts">
import Message from "primevue/message";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, ref } from "vue";

import { type FunctionDocument, readFunction, useFunction, useFunctionChanges } from "@/api/functions";
import { type CastRow, type SheetRow, useCast, useSheetCatalogue } from "@/api/materials";
import StateView from "@/parts/StateView.vue";
import TextField from "@/parts/fields/TextField.vue";
import SheetSurface from "@/preview/SheetSurface.vue";
import { t } from "@/texts/materials";

import FunctionInputs from "./FunctionInputs.vue";
import MasterKeepers from "./MasterKeepers.vue";
import { fetchCast, materialOfCast, sampleSources } from "./previewMaterials";
import SheetRows from "./SheetRows.vue";
import { useDraft } from "./useDraft";
import { plainOf } from "./values";
import VersionTrail from "./VersionTrail.vue";

/** A function of the library, written and read: its inputs, its rows, its result; shown on a surface by itself. */
const props = defineProps<{ slug: string; name: string; casts: CastRow[] }>();
const one = useFunction(() => props.name);
const catalogue = useSheetCatalogue();
const changes = useFunctionChanges(() => props.slug);
const draft = useDraft(
  () => one.data.value ?? null,
  readFunction,
  (name, document, seen) => changes.keepDraft(name, document, seen),
);
const { document, sheet, problem, said } = draft;
const RESULT = "result";
const mayWrite = computed(() => one.data.value?.may_write ?? false);
/** The rows of the function, without how its sheet shows the result; the result is no row that can be taken out. */
const shown = computed(() => {
  if (!sheet.value) return null;
  const rows = sheet.value.rows
    .filter((row) => !row.is_input)
    .map((row) => (row.name === RESULT ? { ...row, label: t("result") } : row));
  const about = (row: string) => rows.some((own) => own.name === row);
  const remarks = sheet.value.remarks.filter((remark) => about(remark.row));
  return { ...sheet.value, rows, remarks };
});
const operations = computed(() => [
  ...(catalogue.data.value?.operations ?? []),
  ...(sheet.value?.functions ?? []).map((own) => own.operation),
]);
const moved = ref<Record<string, number[]>>({});
const values = computed(() => ({
  ...Object.fromEntries((sheet.value?.parameters ?? []).map((own) => [own.name, own.default])),
  ...moved.value,
}));
/** A colour to look at: that of the project's first cast; the other maps are plain. */
const sample = useCast(
  () => props.slug,
  () => props.casts[0]?.id ?? 0,
);
const slots = computed(() => sampleSources(props.slug, sheet.value?.slots ?? [], sample.data.value));
const materialOf = async (id: number) => materialOfCast(props.slug, await fetchCast(props.slug, id));

function write(row: SheetRow, text: string): void {
  void draft.change((edited) => {
    if (row.name === RESULT) edited.result = text;
    else edited.rows!.find((own) => own.name === row.name)!.expression = text;
  });
}
function drop(row: SheetRow): void {
  if (row.name === RESULT) return;
  void draft.change((edited) => {
    edited.rows = edited.rows!.filter((own) => own.name !== row.name);
  });
}
/** A row above the result, after all others. */
function addRow(typed: string): void {
  const name = typed.trim();
  const add = (edited: FunctionDocument) =>
    (edited.rows = [...(edited.rows ?? []), { name, expression: edited.inputs[0]!.name }]);
  if (name) void draft.change(add);
}
function keep(name: string, value: number[]): void {
  moved.value = {};
  const text = value.length === 1 ? String(value[0]) : `vector(${value.join(", ")})`;
  void draft.change((edited) => {
    edited.inputs.find((own) => own.name === name)!.default = text;
  });
}
</script>

<template>
  <StateView :query="one" :rows="6" height="4rem">
    <Splitter v-if="one.data.value && document" state-key="function" state-storage="local" class="split">
      <SplitterPanel
        :size="66"
        :min-size="35"
        class="scroll editor"
        :aria-label="t('function')"
        role="region"
      >
        <header class="row">
          <h2>{{ document.title || document.name }}</h2>
          <span class="soft mono">{{ document.name }}</span>
        </header>
        <TextField
          :value="document.help ?? ''"
          :disabled="!mayWrite"
          :placeholder="t('whatItIsFor')"
          :label="t('whatItIsFor')"
          @change="(help) => draft.change((edited) => (edited.help = help))"
        />
        <VersionTrail
          :master="one.data.value"
          :busy="changes.busy.value"
          @publish="(note) => changes.publish(name, note)"
        />
        <MasterKeepers
          :master="one.data.value"
          :busy="changes.busy.value"
          @add="(person) => changes.keeper(name, person, true)"
          @remove="(person) => changes.keeper(name, person, false)"
        />
        <p class="row uses" data-test="uses">
          <template v-if="one.data.value.used_by.length">
            <span class="soft">{{ t("mastersThatUseIt") }}</span>
            <RouterLink
              v-for="use in one.data.value.used_by"
              :key="use.master"
              :to="{ name: 'materials', params: { slug, kind: 'master', key: use.master } }"
              >{{ use.title }} <span class="soft">{{ use.number }}</span></RouterLink
            >
          </template>
          <span v-else class="soft">{{ t("usedByNoMaster") }}</span>
        </p>
        <Message
          v-if="problem && !shown?.rows.some((row) => row.name === problem?.row)"
          severity="error"
          :closable="false"
          >{{ problem.message }}</Message
        >
        <Message v-if="said" severity="error" :closable="false">{{ said }}</Message>
        <FunctionInputs :document="document" :may-write="mayWrite" @change="draft.change" />
        <SheetRows
          v-if="shown"
          :sheet="shown"
          :operations="operations"
          :values="values"
          :changed="[]"
          :inherited="[]"
          :may-change="mayWrite"
          :may-write="mayWrite"
          :problem="problem"
          :kept="RESULT"
          @move="(key, value) => (moved = { ...moved, [key]: value })"
          @keep="keep"
          @write="write"
          @drop="drop"
        />
        <TextField
          v-if="mayWrite"
          value=""
          clears
          mono
          :placeholder="t('addARowItsName')"
          :label="t('nameOfANewRow')"
          @change="addRow"
        />
      </SplitterPanel>
      <SplitterPanel :size="34" :min-size="24" class="beside">
        <SheetSurface
          v-if="sheet"
          :name="sheet.title"
          :sheet="sheet"
          :values="values"
          :slots="slots"
          :choices="casts"
          :material-of="materialOf"
          :plain-of="plainOf"
        />
      </SplitterPanel>
    </Splitter>
  </StateView>
</template>

<style scoped>
.split {
  min-height: 0;
  height: 100%;
  overflow: hidden;
}
.editor {
  padding: var(--space-2) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
  justify-items: stretch;
}
.uses {
  flex-wrap: wrap;
  gap: var(--space-3);
}
.beside {
  display: grid;
  min-height: 0;
  height: 100%;
  overflow: hidden;
}
</style>
