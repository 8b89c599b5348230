<script setup lang="ts">
import { ref, watch } from "vue";

/** A length in metres. What is being typed stays while other things are refreshed around it. */
const props = defineProps<{ value: number | null; label: string; disabled: boolean }>();
const emit = defineEmits<{ change: [metres: number | null] }>();

const typed = ref("");
const typing = ref(false);
watch(
  () => props.value,
  (value) => {
    if (!typing.value) typed.value = value === null ? "" : String(value);
  },
  { immediate: true },
);
function done(): void {
  typing.value = false;
  // A number input's model is a number; an empty one is text.
  const value = Number(typed.value) || null;
  if (value !== props.value) emit("change", value);
}
</script>

<template>
  <label
    ><input
      v-model="typed"
      type="number"
      min="0.01"
      step="0.1"
      placeholder="?"
      :disabled="disabled"
      :aria-label="label"
      @focus="typing = true"
      @blur="done"
      @keydown.enter="done"
    />
    m</label
  >
</template>

<style scoped>
input {
  width: 52px;
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px 4px;
}
</style>
