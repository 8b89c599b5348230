<script setup lang="ts">
import Button from "primevue/button";
import DatePicker from "primevue/datepicker";
import InputText from "primevue/inputtext";
import { onMounted, ref, useId } from "vue";

import { t } from "@/texts/set";

/** Why a finding is accepted, and how long. */
const emit = defineEmits<{ waive: [reason: string, until: string | null]; cancel: [] }>();
const reason = ref("");
const until = ref<Date | null>(null);
const id = useId();
const field = ref<{ $el: HTMLInputElement }>();
onMounted(() => field.value?.$el.focus());

const twoDigits = (value: number) => String(value).padStart(2, "0");
/** The day that was picked, whatever the time zone. */
const dayOf = (date: Date) =>
  `${date.getFullYear()}-${twoDigits(date.getMonth() + 1)}-${twoDigits(date.getDate())}`;
function waive(): void {
  if (reason.value.trim()) emit("waive", reason.value.trim(), until.value ? dayOf(until.value) : null);
}
</script>

<template>
  <form @submit.prevent="waive" @keydown.escape.stop="emit('cancel')">
    <div class="fields">
      <label :for="`${id}-reason`">{{ t("reason") }}</label>
      <InputText :id="`${id}-reason`" ref="field" v-model="reason" maxlength="500" required />
      <label :for="`${id}-until`">{{ t("until") }}</label>
      <DatePicker
        v-model="until"
        :input-id="`${id}-until`"
        date-format="yy-mm-dd"
        :placeholder="t('noEnd')"
        show-button-bar
        :min-date="new Date()"
      />
    </div>
    <div class="row">
      <Button type="submit" :label="t('waive')" :disabled="!reason.trim()" />
      <Button text severity="secondary" :label="t('cancel')" @click="emit('cancel')" />
    </div>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: var(--space-2);
}
</style>
