<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import SelectButton from "primevue/selectbutton";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, ref, watch } from "vue";

import { type CastRow, useCast, useSheetCatalogue } from "@/api/materials";
import { useMaterialChanges } from "@/api/materialChanges";
import { useSets } from "@/api/queries";
import { named } from "@/parts/fields/options";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import PickAction from "@/parts/fields/PickAction.vue";
import StateView from "@/parts/StateView.vue";
import SheetSurface from "@/preview/SheetSurface.vue";
import CastComments from "@/screens/team/CastComments.vue";
import { t } from "@/texts/materials";

import ParameterGroups from "./ParameterGroups.vue";
import { fetchCast, materialOfCast, slotSources } from "./previewMaterials";
import SheetRows from "./SheetRows.vue";
import SlotCards from "./SlotCards.vue";
import { useCopiedChanges } from "./useCopiedChanges";
import { documentValue, plainOf } from "./values";

/** One cast: its maps, what it changes of its master's parameters, and how it looks. */
const props = defineProps<{
  slug: string;
  id: number;
  casts: CastRow[];
  mayChange: boolean;
  mayWrite: boolean;
}>();
const emit = defineEmits<{ gone: []; made: [master: string] }>();
const cast = useCast(
  () => props.slug,
  () => props.id,
);
const setList = useSets(() => props.slug);
const catalogue = useSheetCatalogue();
const changes = useMaterialChanges(() => props.slug);
const search = ref("");
const shown = ref<"parameters" | "sheet">("parameters");
const SHOWN = [
  { value: "parameters", label: t("parameters") },
  { value: "sheet", label: t("sheet") },
];
/** Values that are being moved and that the server has not answered yet. */
const moved = ref<Record<string, number[]>>({});
const now = computed(() => cast.data.value ?? null);
// An answer to a former change does not take back what has been moved since.
watch([now, changes.busy], () => {
  if (!changes.busy.value) moved.value = {};
});
watch(
  () => props.id,
  () => (search.value = ""),
);
const values = computed(() => ({ ...(now.value?.values ?? {}), ...moved.value }));
const slots = computed(() => slotSources(props.slug, now.value?.sheet.slots ?? [], now.value));
const others = computed(() => props.casts.filter((one) => one.id !== props.id));
const materialOf = async (id: number) => materialOfCast(props.slug, await fetchCast(props.slug, id));
function keep(name: string, value: number[]): void {
  const parameter = now.value!.sheet.parameters.find((one) => one.name === name)!;
  void changes.changeCast(props.id, { changes: { [name]: documentValue(parameter, value) } });
}
const reset = (name: string) => void changes.changeCast(props.id, { changes: { [name]: null } });
/** The layers that slots belong to, by the rows written in them. */
const layers = computed(() => [
  ...new Set(
    (now.value?.sheet.rows ?? []).map((one) => one.origin?.layer).filter((one) => one !== undefined),
  ),
]);
const layer = ref("");
const layerChoices = computed(() => [
  { value: "", label: t("allLayers") },
  ...layers.value.map((one) => ({ value: one, label: one })),
]);
async function stack(over: number): Promise<void> {
  const other = props.casts.find((one) => one.id === over);
  if (!other || !now.value) return;
  const made = await changes.stack(t("oneOverAnother", { one: other.name, other: now.value.name }), [
    props.id,
    other.id,
  ]);
  if (made) emit("made", made.master);
}
async function remove(): Promise<void> {
  if ((await changes.deleteCast(props.id)) !== null) emit("gone");
}
const { copy, paste } = useCopiedChanges(now, (given) => changes.changeCast(props.id, { changes: given }));
const memory = computed(() =>
  now.value?.memory ? t("mibOfMaps", { mib: (now.value.memory / 2 ** 20).toFixed(1) }) : "",
);
</script>

<template>
  <StateView :query="cast" :rows="6" height="5rem">
    <Splitter v-if="now" state-key="cast" state-storage="local" class="split">
      <SplitterPanel :size="64" :min-size="35" class="scroll editor" :aria-label="t('cast')" role="region">
        <header class="row">
          <h2>{{ now.name }}</h2>
          <span class="soft grow"
            >{{ t("madeFrom") }}
            <RouterLink :to="{ name: 'materials', params: { slug, kind: 'master', key: now.master } }">{{
              now.sheet.title
            }}</RouterLink>
            {{ now.number
            }}<template v-if="now.by">{{
              t("by", { by: now.by, created: now.created.slice(0, 10) })
            }}</template></span
          >
          <Button
            as="router-link"
            outlined
            severity="secondary"
            :label="t('export')"
            :title="t('exportW')"
            :to="{ name: 'materials', params: { slug, kind: 'write', key: now.master } }"
          />
          <Button
            v-if="mayChange"
            outlined
            severity="secondary"
            icon="pi pi-trash"
            :label="t('delete')"
            @click="remove"
          />
        </header>
        <div v-if="mayChange" class="row">
          <ChoiceField
            v-if="layers.length"
            v-model="layer"
            :options="layerChoices"
            :label="t('layerToFill')"
          />
          <PickAction
            :label="t('fillSlotsFromASet')"
            :options="named(setList.data.value?.sets ?? [], 'id', 'name')"
            @pick="(set) => changes.fillCast(id, set, layer)"
          />
          <PickAction
            v-if="mayWrite && !layers.length && others.length"
            :label="t('stackUnderAnotherCast')"
            :options="named(others, 'id', 'name')"
            @pick="stack"
          />
          <Button
            text
            :label="t('copyChanges')"
            :title="t('toTheClipboardToPasteInto')"
            :disabled="!now.changed.length"
            @click="copy"
          />
          <Button text :label="t('pasteChanges')" @click="paste" />
        </div>
        <SlotCards
          :slug="slug"
          :sheet="now.sheet"
          :cast="now"
          :sets="setList.data.value?.sets ?? []"
          :roles="setList.data.value?.roles ?? []"
          :may-change="mayChange"
          @fill="(slot, value) => changes.changeCast(id, { slots: { [slot]: value } })"
        />
        <div class="row">
          <SelectButton
            v-model="shown"
            :options="SHOWN"
            option-label="label"
            option-value="value"
            :allow-empty="false"
            :aria-label="t('whatIsShown')"
          />
          <InputText v-model="search" :placeholder="t('findAParameter')" :aria-label="t('findAParameter')" />
          <span class="soft">{{
            t("ofChanged", { count: now.changed.length, count2: now.sheet.parameters.length })
          }}</span>
          <span class="grow" />
          <span class="soft" :title="t('inTheCheapestFormatsThatThe')">{{ memory }}</span>
        </div>
        <ParameterGroups
          v-if="shown === 'parameters'"
          :sheet="now.sheet"
          :values="values"
          :changed="now.changed"
          :inherited="now.inherited"
          :search="search"
          :may-change="mayChange"
          @move="(name, value) => (moved = { ...moved, [name]: value })"
          @keep="keep"
          @back="reset"
        />
        <SheetRows
          v-else
          v-model:search="search"
          :sheet="now.sheet"
          :operations="catalogue.data.value?.operations ?? []"
          :values="values"
          :changed="now.changed"
          :inherited="now.inherited"
          :may-change="mayChange"
          :may-write="false"
          :problem="null"
          @move="(name, value) => (moved = { ...moved, [name]: value })"
          @keep="keep"
          @back="reset"
        />
        <CastComments :slug="slug" :cast="id" />
      </SplitterPanel>
      <SplitterPanel :size="36" :min-size="24" class="surface">
        <SheetSurface
          :name="now.name"
          :sheet="now.sheet"
          :values="values"
          :slots="slots"
          :choices="others"
          :material-of="materialOf"
          :plain-of="plainOf"
        />
      </SplitterPanel>
    </Splitter>
  </StateView>
</template>

<style scoped>
.split,
.surface {
  min-height: 0;
  height: 100%;
  overflow: hidden;
}
.surface {
  display: grid;
}
.editor {
  padding: var(--space-2) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
</style>
