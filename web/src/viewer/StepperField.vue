<script setup lang="ts">
import Button from "primevue/button";

/** A value that is stepped down and up, with its name. */
defineProps<{
  label: string;
  value: string;
  less: string;
  more: string;
  help?: string;
  atLow?: boolean;
  atHigh?: boolean;
}>();
const emit = defineEmits<{ step: [by: -1 | 1] }>();
</script>

<template>
  <span class="stepper" :title="help">
    <span class="soft">{{ label }}</span>
    <Button
      text
      severity="secondary"
      icon="pi pi-minus"
      :aria-label="less"
      :disabled="atLow"
      @click="emit('step', -1)"
    />
    <span class="value mono">{{ value }}</span>
    <Button
      text
      severity="secondary"
      icon="pi pi-plus"
      :aria-label="more"
      :disabled="atHigh"
      @click="emit('step', 1)"
    />
  </span>
</template>

<style scoped>
.stepper {
  display: inline-flex;
  align-items: center;
}
.value {
  min-width: 2rem;
  text-align: center;
}
</style>
