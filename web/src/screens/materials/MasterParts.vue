<script setup lang="ts">
import Panel from "primevue/panel";
import Button from "primevue/button";
import { computed, ref } from "vue";

import type { SheetDocument } from "@/api/materials";
import { useCatalogue } from "@/api/queries";
import { useSetRoles } from "@/api/roles";
import { t } from "@/texts/materials";

import ParameterTable from "./ParameterTable.vue";
import SlotTable from "./SlotTable.vue";
import { newParameter, newSlot, PARAMETER_KINDS, type Parameter, type Slot } from "./parts";

/** A sheet's slots and parameters, one line each; folded until somebody wants to change them. */
const props = defineProps<{ part: SheetDocument; mayWrite: boolean }>();
const emit = defineEmits<{ change: [edit: (part: SheetDocument) => void] }>();
const folded = ref(true);
const slots = computed(() => props.part.slots ?? []);
const parameters = computed(() => props.part.parameters ?? []);
const catalogue = useCatalogue();
const roles = useSetRoles();
const takes = computed(() => [
  { group: t("oneMap"), options: roles.value.map((one) => ({ value: one.key, label: one.label })) },
  {
    group: t("packed"),
    options: (catalogue.data.value?.layouts ?? []).map((one) => ({ value: one.name, label: one.title })),
  },
]);
const title = computed(() =>
  t("slotsParameters", {
    slots: t("slots2", { count: slots.value.length }),
    parameters: t("parameters2", { count: parameters.value.length }),
  }),
);
const names = computed(() => [...slots.value, ...parameters.value].map((one) => one.name).join(", "));

/** A part with some of it changed; what is empty is left out of the document. */
function changed<T extends Slot | Parameter>(part: T, change: Partial<T>): T {
  const entries = Object.entries({ ...part, ...change });
  return Object.fromEntries(entries.filter(([, value]) => value !== undefined && value !== "")) as T;
}
const changeSlot = (at: number, change: Partial<Slot>) =>
  emit("change", (sheet) => (sheet.slots![at] = changed(sheet.slots![at]!, change)));
const changeParameter = (at: number, change: Partial<Parameter>) =>
  emit("change", (sheet) => (sheet.parameters![at] = changed(sheet.parameters![at]!, change)));
const addSlot = () =>
  emit("change", (sheet) => (sheet.slots = [...(sheet.slots ?? []), newSlot(slots.value)]));
const addParameter = (kind: Parameter["kind"]) =>
  emit(
    "change",
    (sheet) => (sheet.parameters = [...(sheet.parameters ?? []), newParameter(parameters.value, kind)]),
  );
</script>

<template>
  <Panel v-model:collapsed="folded" toggleable :toggle-button-props="{ 'aria-label': t('show', { title }) }">
    <template #header>
      <span class="row"
        >{{ title }} <span class="soft mono">{{ names }}</span></span
      >
    </template>
    <SlotTable
      :slots="slots"
      :takes="takes"
      :layouts="(catalogue.data.value?.layouts ?? []).map((one) => one.name)"
      :may-write="mayWrite"
      @change="changeSlot"
      @drop="(at) => emit('change', (sheet) => void sheet.slots!.splice(at, 1))"
    />
    <Button v-if="mayWrite" text icon="pi pi-plus" :label="t('addASlot')" @click="addSlot" />
    <ParameterTable
      :parameters="parameters"
      :may-write="mayWrite"
      @change="changeParameter"
      @drop="(at) => emit('change', (sheet) => void sheet.parameters!.splice(at, 1))"
    />
    <div v-if="mayWrite" class="row">
      <span class="soft">{{ t("addAParameter") }}</span>
      <Button v-for="kind in PARAMETER_KINDS" :key="kind" text :label="kind" @click="addParameter(kind)" />
    </div>
  </Panel>
</template>
