<script setup lang="ts">
import { computed } from "vue";

import { valueWords } from "@/parts/valueWords";
import { hexOf } from "@/screens/materials/values";

/** A value of one of two states: a colour with what it looks like, anything else as it is written. */
const props = defineProps<{ value: unknown }>();
const COLOUR_PARTS = 3;
const colour = computed(() =>
  Array.isArray(props.value) &&
  props.value.length === COLOUR_PARTS &&
  props.value.every((one) => typeof one === "number" && one >= 0 && one <= 1)
    ? hexOf(props.value as number[])
    : null,
);
const words = computed(() => {
  const value = props.value;
  if (Array.isArray(value) && value.every((one) => ["string", "number"].includes(typeof one)))
    return value.filter((one) => one !== "").join(", ");
  return valueWords(value);
});
</script>

<template>
  <span v-if="colour" class="colour" :style="{ background: colour }" aria-hidden="true"></span>
  <span class="mono">{{ words }}</span>
</template>

<style scoped>
.colour {
  display: inline-block;
  width: 1.6rem;
  height: 1.2rem;
  margin-right: var(--space-2);
  vertical-align: middle;
  border: 1px solid var(--line);
}
.mono {
  overflow-wrap: anywhere;
}
</style>
