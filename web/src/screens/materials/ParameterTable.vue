<script setup lang="ts">
import Button from "primevue/button";

import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/materials";

import type { Parameter } from "./parts";

/** A sheet's parameters: name, title, group, and the range or the options of each. */
defineProps<{ parameters: Parameter[]; mayWrite: boolean }>();
const emit = defineEmits<{ change: [at: number, change: Partial<Parameter>]; drop: [at: number] }>();
/** Numbers of a vector; those that are new are as the last one. */
const SIZES = ([2, 3, 4] as const).map((one) => ({ value: one, label: t("vectorOf", { number: one }) }));
function setSize(at: number, one: Parameter, size: 2 | 3 | 4): void {
  const now = one.default as number[];
  const numbers = Array.from({ length: size }, (_, index) => now[Math.min(index, now.length - 1)]!);
  emit("change", at, { size, default: numbers });
}
function setOptions(at: number, text: string): void {
  const options = text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);
  if (options.length) emit("change", at, { options, default: options[0]! });
}
</script>

<template>
  <table v-if="parameters.length" class="table" :aria-label="t('parametersOfTheMaster')">
    <thead>
      <tr>
        <th scope="col">{{ t("parameter") }}</th>
        <th scope="col">{{ t("title") }}</th>
        <th scope="col">{{ t("kind") }}</th>
        <th scope="col">{{ t("group") }}</th>
        <th scope="col">{{ t("minimumMaximumOrOptions") }}</th>
        <th scope="col">
          <span class="visually-hidden">{{ t("remove2") }}</span>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(one, at) in parameters" :key="at">
        <td>
          <TextField
            :value="one.name"
            mono
            :disabled="!mayWrite"
            :label="t('nameOfParameter', { number: at + 1 })"
            @change="emit('change', at, { name: $event })"
          />
        </td>
        <td>
          <TextField
            :value="one.title"
            :disabled="!mayWrite"
            :label="t('titleOfParameter', { number: at + 1 })"
            @change="emit('change', at, { title: $event })"
          />
        </td>
        <td class="soft">{{ one.kind }}</td>
        <td>
          <TextField
            :value="one.group"
            :disabled="!mayWrite"
            :label="t('groupOfParameter', { number: at + 1 })"
            @change="emit('change', at, { group: $event })"
          />
        </td>
        <td>
          <span v-if="one.kind === 'number'" class="row">
            <NumberField
              :value="one.low"
              optional
              :disabled="!mayWrite"
              :label="t('minimumOfParameter', { number: at + 1 })"
              @change="emit('change', at, { low: $event ?? undefined })"
            />
            <NumberField
              :value="one.high"
              optional
              :disabled="!mayWrite"
              :label="t('maximumOfParameter', { number: at + 1 })"
              @change="emit('change', at, { high: $event ?? undefined })"
            />
          </span>
          <ChoiceField
            v-else-if="one.kind === 'vector'"
            :model-value="one.size ?? 2"
            :options="SIZES"
            :disabled="!mayWrite"
            :label="t('numbersOfParameter', { number: at + 1 })"
            @update:model-value="setSize(at, one, $event ?? 2)"
          />
          <TextField
            v-else-if="one.kind === 'choice'"
            :value="(one.options as string[]).join(', ')"
            mono
            :disabled="!mayWrite"
            :label="t('optionsOfParameter', { number: at + 1 })"
            @change="setOptions(at, $event)"
          />
        </td>
        <td>
          <Button
            v-if="mayWrite"
            text
            severity="secondary"
            icon="pi pi-times"
            :aria-label="t('removeParameter', { name: one.name })"
            :title="t('remove2')"
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
