<script setup lang="ts">
import Button from "primevue/button";

import type { Terms, Use } from "@/api/rules";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import TextField from "@/parts/fields/TextField.vue";

/** The licences with what becomes of sets under them, and why. */
const props = defineProps<{ terms: Terms[]; mayChange: boolean }>();
const emit = defineEmits<{ change: [terms: Terms[]] }>();
const USES: { value: Use; label: string }[] = [
  { value: "free", label: "Accepted" },
  { value: "credit", label: "Accepted with attribution" },
  { value: "refused", label: "Refused" },
];

function change(at: number, changed: Partial<Terms>): void {
  const next = props.terms.map((one, index) => (index === at ? { ...one, ...changed } : one));
  emit(
    "change",
    next.map((one) => (one.why ? one : { licence: one.licence, use: one.use })),
  );
}
const remove = (at: number) =>
  emit(
    "change",
    props.terms.filter((_, index) => index !== at),
  );
function add(text: string): void {
  if (text.trim()) emit("change", [...props.terms, { licence: text.trim(), use: "free" }]);
}
</script>

<template>
  <table class="table">
    <thead>
      <tr>
        <th scope="col">Licence</th>
        <th scope="col">Its sets are</th>
        <th scope="col">Reason</th>
        <th scope="col"><span class="visually-hidden">Remove</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(one, at) in terms" :key="at" :data-licence="one.licence">
        <td>
          <TextField
            mono
            :value="one.licence"
            :maxlength="100"
            :label="`Licence ${at + 1}`"
            :disabled="!mayChange"
            @change="change(at, { licence: $event.trim() })"
          />
        </td>
        <td>
          <ChoiceField
            :model-value="one.use"
            :options="USES"
            :label="`Sets under ${one.licence} are`"
            :disabled="!mayChange"
            @update:model-value="$event && change(at, { use: $event })"
          />
        </td>
        <td>
          <TextField
            :value="one.why"
            :maxlength="500"
            :label="`Reason for ${one.licence}`"
            :disabled="!mayChange"
            @change="change(at, { why: $event.trim() })"
          />
        </td>
        <td>
          <Button
            v-if="mayChange"
            text
            severity="secondary"
            icon="pi pi-times"
            :aria-label="`Remove ${one.licence}`"
            :title="`Remove ${one.licence}`"
            @click="remove(at)"
          />
        </td>
      </tr>
      <tr v-if="mayChange">
        <td colspan="4">
          <TextField
            mono
            value=""
            clears
            :maxlength="100"
            placeholder="Add a licence: its SPDX identifier"
            label="Add a licence"
            @change="add"
          />
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.table {
  width: 100%;
}
.table :deep(.p-inputtext) {
  width: 100%;
}
</style>
