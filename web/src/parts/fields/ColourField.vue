<script setup lang="ts">
import ColorPicker from "primevue/colorpicker";

import { t } from "@/texts/parts";

import TextField from "./TextField.vue";

/** A colour as "#rrggbb" in sRGB: a patch that opens a picker, and the number to type. */
const props = defineProps<{ value: string; label: string; disabled?: boolean }>();
const emit = defineEmits<{ move: [value: string]; keep: [value: string] }>();
const HEX = /^#?([0-9a-f]{6})$/i;
let last: string | null = null;

function move(value: string): void {
  if (`#${value}` === props.value) return;
  last = `#${value}`;
  emit("move", last);
}
function keep(): void {
  if (last) emit("keep", last);
  last = null;
}
function typed(text: string): void {
  const hex = HEX.exec(text.trim())?.[1];
  if (hex) emit("keep", `#${hex.toLowerCase()}`);
}
</script>

<template>
  <span class="colour-field">
    <ColorPicker
      :model-value="value.slice(1)"
      format="hex"
      :disabled="disabled"
      :pt="{
        root: { role: 'group', 'aria-label': label },
        preview: { 'aria-label': t('choose', { label }) },
      }"
      @update:model-value="move"
      @hide="keep"
      @change="keep"
    />
    <TextField
      :value="value"
      :label="t('hexadecimal', { label })"
      :disabled="disabled"
      mono
      @change="typed"
    />
  </span>
</template>

<style scoped>
.colour-field {
  display: flex;
  gap: var(--space-2);
  align-items: center;
}
.colour-field :deep(.p-inputtext) {
  width: 6rem;
}
</style>
