<script setup lang="ts">
import Button from "primevue/button";

import NumberField from "@/parts/fields/NumberField.vue";
import TextField from "@/parts/fields/TextField.vue";

import type { Parameter } from "./parts";

/** A sheet's parameters: name, title, group, and the range or the options of each. */
defineProps<{ parameters: Parameter[]; mayWrite: boolean }>();
const emit = defineEmits<{ change: [at: number, change: Partial<Parameter>]; drop: [at: number] }>();
function setOptions(at: number, text: string): void {
  const options = text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);
  if (options.length) emit("change", at, { options, default: options[0]! });
}
</script>

<template>
  <table v-if="parameters.length" class="table" aria-label="Parameters of the master">
    <thead>
      <tr>
        <th scope="col">Parameter</th>
        <th scope="col">Title</th>
        <th scope="col">Kind</th>
        <th scope="col">Group</th>
        <th scope="col">Minimum, maximum or options</th>
        <th scope="col"><span class="visually-hidden">Remove</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(one, at) in parameters" :key="at">
        <td>
          <TextField
            :value="one.name"
            mono
            :disabled="!mayWrite"
            :label="`Name of parameter ${at + 1}`"
            @change="emit('change', at, { name: $event })"
          />
        </td>
        <td>
          <TextField
            :value="one.title"
            :disabled="!mayWrite"
            :label="`Title of parameter ${at + 1}`"
            @change="emit('change', at, { title: $event })"
          />
        </td>
        <td class="soft">{{ one.kind }}</td>
        <td>
          <TextField
            :value="one.group"
            :disabled="!mayWrite"
            :label="`Group of parameter ${at + 1}`"
            @change="emit('change', at, { group: $event })"
          />
        </td>
        <td>
          <span v-if="one.kind === 'number'" class="row">
            <NumberField
              :value="one.low"
              optional
              :disabled="!mayWrite"
              :label="`Minimum of parameter ${at + 1}`"
              @change="emit('change', at, { low: $event ?? undefined })"
            />
            <NumberField
              :value="one.high"
              optional
              :disabled="!mayWrite"
              :label="`Maximum of parameter ${at + 1}`"
              @change="emit('change', at, { high: $event ?? undefined })"
            />
          </span>
          <TextField
            v-else-if="one.kind === 'choice'"
            :value="(one.options as string[]).join(', ')"
            mono
            :disabled="!mayWrite"
            :label="`Options of parameter ${at + 1}`"
            @change="setOptions(at, $event)"
          />
        </td>
        <td>
          <Button
            v-if="mayWrite"
            text
            severity="secondary"
            icon="pi pi-times"
            :aria-label="`Remove parameter ${one.name}`"
            title="Remove"
            @click="emit('drop', at)"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.table :deep(.p-inputtext) {
  width: 8.5rem;
}
</style>
