<script setup lang="ts">
import Slider from "primevue/slider";
import { onBeforeUnmount } from "vue";

import { t } from "@/texts/parts";

import NumberField from "./NumberField.vue";

/** A number under the hand: "move" tells each step while it slides, "keep" the value where it was let go. */
const props = withDefaults(
  defineProps<{
    value: number;
    low: number;
    high: number;
    step?: number;
    label: string;
    /** For the slider: a curve may stand between it and the value. */
    toShare?: (value: number) => number;
    fromShare?: (share: number) => number;
    disabled?: boolean;
    /** Limits of the number; the slider may show less. */
    min?: number;
    max?: number;
    /** No box with the number beside it. */
    bare?: boolean;
  }>(),
  { step: 0.01, toShare: undefined, fromShare: undefined, min: undefined, max: undefined },
);
const emit = defineEmits<{ move: [value: number]; keep: [value: number] }>();
let last: number | null = null;

function move(given: number | number[]): void {
  const share = Array.isArray(given) ? given[0]! : given;
  last = props.fromShare ? props.fromShare(share) : share;
  emit("move", last);
}
function keep(): void {
  if (last !== null) emit("keep", last);
  last = null;
}
function typed(value: number | null): void {
  if (value === null) return;
  emit("move", value);
  emit("keep", value);
}
onBeforeUnmount(keep);
</script>

<template>
  <span class="slider-field" :class="{ bare }">
    <Slider
      :model-value="toShare ? toShare(value) : value"
      :min="toShare ? 0 : low"
      :max="toShare ? 1 : high"
      :step="toShare ? 0.001 : step"
      :disabled="disabled"
      :aria-label="label"
      @update:model-value="move"
      @slideend="keep"
      @keyup="keep"
      @click="keep"
    />
    <NumberField
      v-if="!bare"
      :value="Number(value.toFixed(4))"
      :label="t('number', { label })"
      :min="min"
      :max="max"
      :step="step"
      :disabled="disabled"
      @change="typed"
    />
  </span>
</template>

<style scoped>
.slider-field {
  display: grid;
  grid-template-columns: minmax(40px, 1fr) 4.6rem;
  gap: var(--space-3);
  align-items: center;
  width: 100%;
  padding-left: 8px;
}
.bare {
  grid-template-columns: minmax(40px, 1fr);
  padding-right: 8px;
}
.slider-field :deep(.number-field) {
  width: 100%;
}
</style>
