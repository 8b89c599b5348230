<script setup lang="ts" generic="V">
import { nextTick, ref } from "vue";

import ChoiceField from "./ChoiceField.vue";
import type { Given } from "./options";

/** A list from which something is done: "Add a step". Nothing stays chosen. */
defineProps<{ options: readonly Given<V>[]; label: string; disabled?: boolean }>();
const emit = defineEmits<{ pick: [value: V] }>();
const round = ref(0);

async function pick(value?: V | null): Promise<void> {
  if (value === null || value === undefined) return;
  emit("pick", value);
  await nextTick();
  round.value += 1;
}
</script>

<template>
  <ChoiceField
    :key="round"
    :model-value="null"
    :options="options"
    :label="label"
    :placeholder="label"
    :disabled="disabled"
    @update:model-value="pick"
  />
</template>
