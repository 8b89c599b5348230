<script setup lang="ts">
import { computed, ref } from "vue";

import type { MasterDocument, Sheet, SheetDocument, SurfaceInput } from "@/api/materials";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import PickAction from "@/parts/fields/PickAction.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/materials";

/** What can be added to a sheet: an input of the surface, a row of its own; and how opacity is meant. */
const props = defineProps<{ document: MasterDocument; sheet: Sheet; inputs: SurfaceInput[] }>();
const emit = defineEmits<{ change: [edit: (document: MasterDocument) => void] }>();
/** Of a layered master one layer's sheet is added to at a time. */
const layer = ref("");
const layers = computed(() =>
  (props.document.layers ?? []).map((one) => ({ value: one.name, label: one.title || one.name })),
);
const sheetIn = (of: MasterDocument): SheetDocument =>
  of.layers
    ? (of.layers.find((one) => one.name === layer.value) ?? of.layers[0]!).sheet
    : (of as SheetDocument);
const missing = computed(() =>
  props.inputs
    .filter((one) => !(one.name in sheetIn(props.document).inputs))
    .map((one) => ({ value: one.name, label: one.label })),
);
const OPACITY = [
  { value: "opaque" as const, label: t("opaque") },
  { value: "cut_out" as const, label: t("cutOut") },
  { value: "blend" as const, label: t("blend") },
];
/** An input's neutral value, as an expression. */
function neutralOf(input: SurfaceInput): string {
  if (input.size === 1) return String(input.neutral[0]);
  if (input.meaning === "normal") return "normalise(vector(0, 0, 1))";
  return `rgb(${input.neutral.join(", ")})`;
}
function addInput(name: string): void {
  const input = props.inputs.find((one) => one.name === name);
  if (input) emit("change", (edited) => (sheetIn(edited).inputs[name] = neutralOf(input)));
}
function addRow(typed: string): void {
  const name = typed.trim();
  emit("change", (edited) => {
    const own = sheetIn(edited);
    own.rows = [...(own.rows ?? []), { name, expression: "1" }];
  });
}
const setOpacity = (mode: (typeof OPACITY)[number]["value"]) =>
  emit("change", (edited) => (edited.opacity = { ...edited.opacity, mode }));
</script>

<template>
  <div class="row add">
    <ChoiceField
      v-if="layers.length"
      :model-value="layer || layers[0]!.value"
      :options="layers"
      :label="t('layerThatIsAddedTo')"
      @update:model-value="layer = $event ?? ''"
    />
    <PickAction :label="t('addAnInput')" :options="missing" :disabled="!missing.length" @pick="addInput" />
    <TextField
      value=""
      clears
      mono
      :placeholder="t('addARowItsName')"
      :label="t('nameOfANewRow')"
      @change="addRow"
    />
    <span class="grow" />
    <span class="soft">{{ t("opacity") }}</span>
    <ChoiceField
      :model-value="sheet.opacity_mode as 'opaque'"
      :options="OPACITY"
      :label="t('opacity')"
      @update:model-value="$event && setOpacity($event)"
    />
  </div>
</template>

<style scoped>
.add {
  border-top: 1px solid var(--line);
  padding: var(--space-2) 0;
}
</style>
