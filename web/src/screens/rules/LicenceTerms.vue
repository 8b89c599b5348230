<script setup lang="ts">
import Button from "primevue/button";

import type { Terms, Use } from "@/api/rules";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/rules";

/** The licences with what becomes of sets under them, and why. */
const props = defineProps<{ terms: Terms[]; mayChange: boolean }>();
const emit = defineEmits<{ change: [terms: Terms[]] }>();
const USES: { value: Use; label: string }[] = [
  { value: "free", label: t("accepted") },
  { value: "credit", label: t("acceptedWithAttribution") },
  { value: "refused", label: t("refused") },
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
        <th scope="col">{{ t("licence") }}</th>
        <th scope="col">{{ t("itsSetsAre") }}</th>
        <th scope="col">{{ t("reason") }}</th>
        <th scope="col">
          <span class="visually-hidden">{{ t("remove2") }}</span>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(one, at) in terms" :key="at" :data-licence="one.licence">
        <td>
          <TextField
            mono
            :value="one.licence"
            :maxlength="100"
            :label="t('licenceAt', { number: at + 1 })"
            :disabled="!mayChange"
            @change="change(at, { licence: $event.trim() })"
          />
        </td>
        <td>
          <ChoiceField
            :model-value="one.use"
            :options="USES"
            :label="t('setsUnderAre', { licence: one.licence })"
            :disabled="!mayChange"
            @update:model-value="$event && change(at, { use: $event })"
          />
        </td>
        <td>
          <TextField
            :value="one.why"
            :maxlength="500"
            :label="t('reasonFor', { licence: one.licence })"
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
            :aria-label="t('remove3', { licence: one.licence })"
            :title="t('remove3', { licence: one.licence })"
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
            :placeholder="t('addALicenceItsSpdxIdentifier')"
            :label="t('addALicence')"
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
