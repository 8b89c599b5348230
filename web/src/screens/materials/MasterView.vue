<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, ref } from "vue";

import { type DrawnOut, useFunctionChanges } from "@/api/functions";
import { type CastRow, useCast, useMaster, useSheetCatalogue } from "@/api/materials";
import { useMaterialChanges } from "@/api/materialChanges";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import Mark from "@/parts/Mark.vue";
import StateView from "@/parts/StateView.vue";
import SheetSurface from "@/preview/SheetSurface.vue";
import { t } from "@/texts/materials";

import AddToSheet from "./AddToSheet.vue";
import LayerParts from "./LayerParts.vue";
import MakeFunctionDialog from "./MakeFunctionDialog.vue";
import MasterKeepers from "./MasterKeepers.vue";
import { fetchCast, materialOfCast, slotSources } from "./previewMaterials";
import SheetFunctions from "./SheetFunctions.vue";
import SheetRows from "./SheetRows.vue";
import { useMasterDraft } from "./useMasterDraft";
import { provideSheetFunctions } from "./useSheetFunctions";
import { documentValue, plainOf } from "./values";
import VersionTrail from "./VersionTrail.vue";

/** A master's sheet, written and read, with its versions; on a surface with the maps of one of its casts. */
const props = defineProps<{ slug: string; name: string; casts: CastRow[]; mayChange: boolean }>();
const emit = defineEmits<{ derive: [title: string] }>();
const master = useMaster(() => props.name);
const catalogue = useSheetCatalogue();
const changes = useMaterialChanges(() => props.slug);
const draft = useMasterDraft(
  () => master.data.value ?? null,
  (name, document, seen) => changes.keepDraft(name, document, seen),
);
const { sheet, problem, said, document } = draft;
const functions = provideSheetFunctions(document, sheet, draft.replace);
const functionChanges = useFunctionChanges(() => props.slug);
const operations = computed(() => [
  ...(catalogue.data.value?.operations ?? []),
  ...functions.carried.value.map((one) => one.operation),
]);
const making = functions.making;
async function makeFunction(drawn: DrawnOut): Promise<void> {
  const row = making.value!.label;
  const note = t("madeOfRow", { row, master: sheet.value!.title });
  const made = await functionChanges.make(drawn.function, note);
  if (!made) return;
  making.value = null;
  await functions.take(drawn, made.newest!);
}
const own = computed(() => props.casts.filter((one) => one.master === props.name));
const shownWith = ref(0);
const shown = computed(
  () => own.value.find((one) => one.id === shownWith.value)?.id ?? own.value[0]?.id ?? 0,
);
const cast = useCast(() => props.slug, shown);
const moved = ref<Record<string, number[]>>({});
const values = computed(() => ({
  ...Object.fromEntries((sheet.value?.parameters ?? []).map((one) => [one.name, one.default])),
  ...moved.value,
}));
const slots = computed(() => slotSources(props.slug, sheet.value?.slots ?? [], cast.data.value));
const materialOf = async (id: number) => materialOfCast(props.slug, await fetchCast(props.slug, id));
const mayWrite = computed(() => master.data.value?.may_write ?? false);
const general = computed(() => sheet.value?.remarks.filter((one) => !one.row) ?? []);
const cost = computed(() => {
  const { reads, samplers, arithmetic, variants } = sheet.value!.cost;
  return t("cost", {
    reads,
    samplers,
    arithmetic,
    count: variants,
  });
});

function keep(name: string, value: number[]): void {
  const parameter = sheet.value!.parameters.find((one) => one.name === name)!;
  moved.value = {};
  void draft.begin(name, documentValue(parameter, value));
}
</script>

<template>
  <StateView :query="master" :rows="6" height="4rem">
    <Splitter
      v-if="master.data.value && sheet && document"
      state-key="master"
      state-storage="local"
      class="split"
    >
      <SplitterPanel :size="66" :min-size="35" class="scroll editor" :aria-label="t('master')" role="region">
        <header class="row">
          <h2>{{ sheet.title }}</h2>
          <span class="soft mono">{{ sheet.name }}</span>
          <span class="grow" />
          <Button
            v-if="mayChange"
            outlined
            :label="t('newCast')"
            :title="t('makeACastOf', { title: sheet.title })"
            @click="emit('derive', sheet.title)"
          />
        </header>
        <span class="soft" data-test="cost">{{ cost }}</span>
        <VersionTrail
          :master="master.data.value"
          :busy="changes.busy.value"
          @publish="(note) => changes.publish(name, note)"
        />
        <MasterKeepers
          :master="master.data.value"
          :busy="changes.busy.value"
          @add="(person) => changes.keeper(name, person, true)"
          @remove="(person) => changes.keeper(name, person, false)"
        />
        <Message v-if="problem && !problem.row" severity="error" :closable="false">{{
          problem.message
        }}</Message>
        <Message v-if="said" severity="error" :closable="false">{{ said }}</Message>
        <p v-for="(one, at) in general" :key="at" :data-remark="one.check">
          <Mark :severity="one.severity" /> {{ one.message }}
        </p>
        <SheetFunctions
          :slug="slug"
          :sheet="sheet"
          :newer="functions.newer"
          :may-write="mayWrite"
          @update="functions.update"
          @remove="functions.takeOut"
        />
        <LayerParts :document="document" :may-write="mayWrite" @change="draft.change" />
        <SheetRows
          :sheet="sheet"
          :operations="operations"
          :values="values"
          :changed="[]"
          :inherited="[]"
          :may-change="mayWrite"
          :may-write="mayWrite"
          :problem="problem"
          @move="(key, value) => (moved = { ...moved, [key]: value })"
          @keep="keep"
          @write="draft.write"
          @drop="draft.drop"
        />
        <AddToSheet
          v-if="mayWrite"
          :document="document"
          :sheet="sheet"
          :inputs="catalogue.data.value?.inputs ?? []"
          @change="draft.change"
        />
      </SplitterPanel>
      <SplitterPanel :size="34" :min-size="24" class="beside">
        <SheetSurface
          :name="sheet.title"
          :sheet="sheet"
          :values="values"
          :slots="slots"
          :choices="casts"
          :material-of="materialOf"
          :plain-of="plainOf"
        />
        <span v-if="own.length" class="row with"
          ><span class="soft">{{ t("mapsOfTheCast") }}</span>
          <ChoiceField
            :model-value="shown"
            :options="named(own, 'id', 'name')"
            :label="t('castWhoseMapsAreShown')"
            @update:model-value="shownWith = $event ?? 0"
        /></span>
      </SplitterPanel>
    </Splitter>
    <MakeFunctionDialog
      v-if="making"
      :row="making"
      :operations="operations"
      :tried="(wanted) => functions.tried(making!, wanted)"
      :busy="functionChanges.busy.value"
      @make="makeFunction"
      @cancel="making = null"
    />
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
  gap: var(--space-2);
  align-content: start;
}
.beside {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
  height: 100%;
  overflow: hidden;
}
.with {
  padding: var(--space-1) var(--space-2);
  background: var(--sheet);
}
</style>
