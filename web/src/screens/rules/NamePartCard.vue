<script setup lang="ts">
import Button from "primevue/button";

import type { NamesDocument } from "@/api/rules";
import CheckField from "@/parts/fields/CheckField.vue";
import TextField from "@/parts/fields/TextField.vue";
import { t } from "@/texts/rules";

/** One part of a name: where it stands, whether it may be missing, which words it may be. */
type Part = NamesDocument["parts"][number];
const props = defineProps<{ part: Part; first: boolean; last: boolean; mayChange: boolean }>();
const emit = defineEmits<{ change: [part: Part]; move: [by: number]; remove: [] }>();
const WORDED = ["part", "variant", "asset"];
const NEEDED = ["asset", "suffix"];

function words(typed: string): void {
  const chosen = typed.split(/[\s,]+/).filter(Boolean);
  const rest = { ...props.part };
  delete (rest as { words?: string[] }).words;
  emit("change", chosen.length ? { ...rest, words: chosen } : rest);
}
</script>

<template>
  <article>
    <div class="top">
      <b>{{ part.part }}</b>
      <template v-if="mayChange">
        <Button
          text
          severity="secondary"
          icon="pi pi-arrow-left"
          :aria-label="t('earlier')"
          :title="t('earlier')"
          :disabled="first"
          @click="emit('move', -1)"
        />
        <Button
          text
          severity="secondary"
          icon="pi pi-arrow-right"
          :aria-label="t('later')"
          :title="t('later')"
          :disabled="last"
          @click="emit('move', 1)"
        />
        <Button
          v-if="!NEEDED.includes(part.part)"
          text
          severity="secondary"
          icon="pi pi-times"
          :aria-label="t('remove4', { part: part.part })"
          :title="t('remove4', { part: part.part })"
          @click="emit('remove')"
        />
      </template>
    </div>
    <TextField
      v-if="part.part === 'text'"
      mono
      :value="part.text"
      :label="t('theText')"
      :disabled="!mayChange"
      @change="emit('change', { ...part, text: $event })"
    />
    <CheckField
      v-else-if="part.part !== 'asset'"
      :label="t('optional')"
      :model-value="part.optional ?? false"
      :disabled="!mayChange"
      @update:model-value="emit('change', { ...part, optional: Boolean($event) })"
    />
    <TextField
      v-if="WORDED.includes(part.part)"
      mono
      :value="(part.words ?? []).join(' ')"
      :placeholder="t('anyWord')"
      :label="t('wordsAllowedFor', { part: part.part })"
      :disabled="!mayChange"
      @change="words"
    />
  </article>
</template>

<style scoped>
article {
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
  padding: var(--space-1) var(--space-2);
  display: grid;
  gap: var(--space-1);
  align-content: start;
  width: 10.5rem;
}
.top {
  display: flex;
  align-items: center;
}
.top b {
  flex: 1;
}
.top :deep(.p-button) {
  padding: 2px 4px;
}
article :deep(.p-inputtext) {
  width: 100%;
}
</style>
