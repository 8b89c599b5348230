<script setup lang="ts">
import InputText from "primevue/inputtext";
import { computed, ref, watch } from "vue";

import type { Problem, SheetRow } from "@/api/materials";
import { t } from "@/texts/materials";

/** A row as an expression, with the place of what is wrong in it marked below. */
const props = defineProps<{ row: SheetRow; problem: Problem | null }>();
const emit = defineEmits<{ write: [text: string] }>();
const text = ref(props.row.text);
watch(
  () => props.row.text,
  (now) => (text.value = now),
);
function write(): void {
  if (text.value.trim() !== props.row.text) emit("write", text.value);
}
const before = computed(() => text.value.slice(0, props.problem?.start ?? 0));
const wrong = computed(() => text.value.slice(props.problem?.start ?? 0, props.problem?.end ?? 0) || " ");
</script>

<template>
  <InputText
    v-model="text"
    fluid
    class="mono"
    spellcheck="false"
    autocomplete="off"
    :aria-label="t('expressionOf', { label: row.label })"
    @change="write"
    @keydown.enter="write"
  />
  <p v-if="problem" class="error" role="alert">
    <span class="mono place" aria-hidden="true"
      ><span class="hidden">{{ before }}</span
      ><span class="under">{{ wrong }}</span></span
    >
    {{ problem.message }}
  </p>
</template>

<style scoped>
p {
  margin: 2px 0;
}
.place {
  display: block;
  padding-left: 8px;
  white-space: pre;
  line-height: 3px;
}
.hidden {
  visibility: hidden;
}
.under {
  color: transparent;
  border-bottom: 2px solid var(--error);
}
</style>
