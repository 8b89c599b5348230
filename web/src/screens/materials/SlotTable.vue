<script setup lang="ts">
import Button from "primevue/button";

import ChoiceField from "@/parts/fields/ChoiceField.vue";
import type { OptionGroup } from "@/parts/fields/options";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/materials";

import type { Slot } from "./parts";

/** A sheet's slots: name, title, and which map or packed layout each takes. */
const props = defineProps<{
  slots: Slot[];
  takes: OptionGroup<string>[];
  layouts: string[];
  mayWrite: boolean;
}>();
const emit = defineEmits<{ change: [at: number, change: Partial<Slot>]; drop: [at: number] }>();
const WRAPS = [
  { value: "repeat" as const, label: t("repeats") },
  { value: "clamp" as const, label: t("lastTexels") },
  { value: "mirror" as const, label: t("mirrored") },
];
const FILTERS = [
  { value: "linear" as const, label: t("smooth") },
  { value: "nearest" as const, label: t("nearest") },
];
function take(at: number, value: string): void {
  if (props.layouts.includes(value)) emit("change", at, { layout: value, role: undefined });
  else emit("change", at, { role: value as Slot["role"], layout: undefined });
}
</script>

<template>
  <table v-if="slots.length" class="table" :aria-label="t('slotsOfTheMaster')">
    <thead>
      <tr>
        <th scope="col">{{ t("slot") }}</th>
        <th scope="col">{{ t("title") }}</th>
        <th scope="col">{{ t("takes") }}</th>
        <th scope="col">{{ t("beyondItsEdge") }}</th>
        <th scope="col">{{ t("betweenTexels") }}</th>
        <th scope="col">
          <span class="visually-hidden">{{ t("remove2") }}</span>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(one, at) in slots" :key="at">
        <td>
          <TextField
            :value="one.name"
            mono
            :disabled="!mayWrite"
            :label="t('nameOfSlot', { number: at + 1 })"
            @change="emit('change', at, { name: $event })"
          />
        </td>
        <td>
          <TextField
            :value="one.title"
            :disabled="!mayWrite"
            :label="t('titleOfSlot', { number: at + 1 })"
            @change="emit('change', at, { title: $event })"
          />
        </td>
        <td>
          <ChoiceField
            :model-value="one.role ?? one.layout ?? null"
            :options="takes"
            :disabled="!mayWrite"
            :label="t('whatSlotTakes', { number: at + 1 })"
            @update:model-value="$event && take(at, $event)"
          />
        </td>
        <td>
          <ChoiceField
            :model-value="one.wrap ?? 'repeat'"
            :options="WRAPS"
            :disabled="!mayWrite"
            :label="t('beyondTheEdgeOfSlot', { number: at + 1 })"
            @update:model-value="$event && emit('change', at, { wrap: $event })"
          />
        </td>
        <td>
          <ChoiceField
            :model-value="one.filter ?? 'linear'"
            :options="FILTERS"
            :disabled="!mayWrite"
            :label="t('betweenTexelsOfSlot', { number: at + 1 })"
            @update:model-value="$event && emit('change', at, { filter: $event })"
          />
        </td>
        <td>
          <Button
            v-if="mayWrite"
            text
            severity="secondary"
            icon="pi pi-times"
            :aria-label="t('removeSlot', { name: one.name })"
            :title="t('remove2')"
            @click="emit('drop', at)"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>
