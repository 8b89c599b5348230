<script setup lang="ts">
import Button from "primevue/button";

import type { NamesDocument } from "@/api/rules";
import CheckField from "@/parts/fields/CheckField.vue";
import TextField from "@/parts/fields/TextField.vue";

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
          aria-label="Earlier"
          title="Earlier"
          :disabled="first"
          @click="emit('move', -1)"
        />
        <Button
          text
          severity="secondary"
          icon="pi pi-arrow-right"
          aria-label="Later"
          title="Later"
          :disabled="last"
          @click="emit('move', 1)"
        />
        <Button
          v-if="!NEEDED.includes(part.part)"
          text
          severity="secondary"
          icon="pi pi-times"
          :aria-label="`Remove ${part.part}`"
          :title="`Remove ${part.part}`"
          @click="emit('remove')"
        />
      </template>
    </div>
    <TextField
      v-if="part.part === 'text'"
      mono
      :value="part.text"
      label="The text"
      :disabled="!mayChange"
      @change="emit('change', { ...part, text: $event })"
    />
    <CheckField
      v-else-if="part.part !== 'asset'"
      label="Optional"
      :model-value="part.optional ?? false"
      :disabled="!mayChange"
      @update:model-value="emit('change', { ...part, optional: Boolean($event) })"
    />
    <TextField
      v-if="WORDED.includes(part.part)"
      mono
      :value="(part.words ?? []).join(' ')"
      placeholder="any word"
      :label="`Words allowed for ${part.part}`"
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
