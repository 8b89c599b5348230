<script setup lang="ts">
import Checkbox from "primevue/checkbox";
import { useId } from "vue";

/** On or off, or one of several values that may be ticked (with "of"). hidden: the label is only heard. */
defineProps<{ label: string; of?: unknown; disabled?: boolean; hidden?: boolean; help?: string }>();
const model = defineModel<unknown>();
const id = useId();
</script>

<template>
  <span class="check-field" :title="help">
    <Checkbox
      v-model="model"
      :binary="of === undefined"
      :value="of"
      :input-id="id"
      :disabled="disabled"
      :aria-label="hidden ? label : undefined"
    />
    <label v-if="!hidden" :for="id"
      ><slot>{{ label }}</slot></label
    >
  </span>
</template>

<style scoped>
.check-field {
  display: inline-flex;
  gap: var(--space-1);
  align-items: center;
  min-width: var(--target-size);
  min-height: var(--target-size);
}
label {
  cursor: pointer;
  padding: 2px 0;
}
</style>
