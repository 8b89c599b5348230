<script setup lang="ts">
import Button from "primevue/button";

import type { FunctionRow } from "@/api/functions";
import type { CalledFunction, Sheet } from "@/api/materials";
import { t } from "@/texts/materials";

/** The functions that a sheet carries: in which version, whether there is a newer one, and those that nothing calls. */
const props = defineProps<{
  slug: string;
  sheet: Sheet;
  newer: (one: CalledFunction) => FunctionRow | null;
  mayWrite: boolean;
}>();
const emit = defineEmits<{ update: [name: string]; remove: [name: string] }>();
const isIdle = (name: string) =>
  props.sheet.remarks.some((one) => one.check === "unused_function" && one.about === name);
function told(one: CalledFunction): string {
  const found = props.newer(one);
  if (!one.number) return t("ownFunction");
  return found ? t("olderThan", { number: one.number, newest: found.newest ?? "" }) : one.number;
}
</script>

<template>
  <div v-if="sheet.functions.length" class="row carried" role="group" :aria-label="t('carriedFunctions')">
    <span class="soft">{{ t("functions") }}</span>
    <span v-for="one in sheet.functions" :key="one.name" class="row" :data-function="one.name">
      <RouterLink :to="{ name: 'materials', params: { slug, kind: 'function', key: one.name } }">{{
        one.title
      }}</RouterLink>
      <span class="soft">{{ told(one) }}</span>
      <Button
        v-if="mayWrite && newer(one)"
        outlined
        :label="t('updateTheFunctionTo', { newest: newer(one)!.newest ?? '' })"
        @click="emit('update', one.name)"
      />
      <Button
        v-if="mayWrite && isIdle(one.name)"
        text
        severity="secondary"
        icon="pi pi-times"
        :aria-label="t('noLongerCarry', { title: one.title })"
        :title="t('noLongerCarry', { title: one.title })"
        @click="emit('remove', one.name)"
      />
    </span>
  </div>
</template>

<style scoped>
.carried {
  flex-wrap: wrap;
  gap: var(--space-1) var(--space-3);
}
</style>
