<script setup lang="ts">
import Button from "primevue/button";

import ChoiceField from "@/parts/fields/ChoiceField.vue";
import type { OptionGroup } from "@/parts/fields/options";
import TextField from "@/parts/fields/TextField.vue";

import type { Slot } from "./parts";

/** A sheet's slots: name, title, and which map or packed layout each takes. */
const props = defineProps<{
  slots: Slot[];
  takes: OptionGroup<string>[];
  layouts: string[];
  mayWrite: boolean;
}>();
const emit = defineEmits<{ change: [at: number, change: Partial<Slot>]; drop: [at: number] }>();
function take(at: number, value: string): void {
  if (props.layouts.includes(value)) emit("change", at, { layout: value, role: undefined });
  else emit("change", at, { role: value as Slot["role"], layout: undefined });
}
</script>

<template>
  <table v-if="slots.length" class="table" aria-label="Slots of the master">
    <thead>
      <tr>
        <th scope="col">Slot</th>
        <th scope="col">Title</th>
        <th scope="col">Takes</th>
        <th scope="col"><span class="visually-hidden">Remove</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(one, at) in slots" :key="at">
        <td>
          <TextField
            :value="one.name"
            mono
            :disabled="!mayWrite"
            :label="`Name of slot ${at + 1}`"
            @change="emit('change', at, { name: $event })"
          />
        </td>
        <td>
          <TextField
            :value="one.title"
            :disabled="!mayWrite"
            :label="`Title of slot ${at + 1}`"
            @change="emit('change', at, { title: $event })"
          />
        </td>
        <td>
          <ChoiceField
            :model-value="one.role ?? one.layout ?? null"
            :options="takes"
            :disabled="!mayWrite"
            :label="`What slot ${at + 1} takes`"
            @update:model-value="$event && take(at, $event)"
          />
        </td>
        <td>
          <Button
            v-if="mayWrite"
            text
            severity="secondary"
            icon="pi pi-times"
            :aria-label="`Remove slot ${one.name}`"
            title="Remove"
            @click="emit('drop', at)"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>
