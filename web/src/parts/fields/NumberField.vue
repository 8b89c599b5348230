<script setup lang="ts">
import InputNumber from "primevue/inputnumber";
import { computed, ref } from "vue";

/**
 * A number, told when it is finished. Empty is "none", where that is allowed. What is being typed stays when another
 * value arrives meanwhile, from somebody else or from a former change; the field follows again once it is left.
 */
const props = withDefaults(
  defineProps<{
    value: number | null | undefined;
    label?: string;
    id?: string;
    min?: number;
    max?: number;
    step?: number;
    /** Digits behind the point. */
    digits?: number;
    unit?: string;
    placeholder?: string;
    disabled?: boolean;
    /** Whether it may be empty. */
    optional?: boolean;
  }>(),
  {
    digits: 4,
    label: undefined,
    id: undefined,
    min: undefined,
    max: undefined,
    step: 1,
    unit: "",
    placeholder: "",
  },
);
const emit = defineEmits<{ change: [value: number | null] }>();
const suffix = computed(() => (props.unit ? ` ${props.unit}` : undefined));
const held = ref<{ value: number | null } | null>(null);
const shown = computed(() => (held.value ? held.value.value : (props.value ?? null)));
function told(value: number | null | undefined): void {
  const next = value ?? null;
  if (next === null && !props.optional) return;
  if (next !== (props.value ?? null)) emit("change", next);
}
</script>

<template>
  <InputNumber
    class="number-field"
    :input-id="id"
    :model-value="shown"
    :aria-label="label"
    :min="min"
    :max="max"
    :step="step"
    :max-fraction-digits="digits"
    :use-grouping="false"
    :suffix="suffix"
    :placeholder="placeholder"
    :disabled="disabled"
    :allow-empty="optional ?? false"
    locale="en-US"
    @focus="held = { value: value ?? null }"
    @blur="held = null"
    @update:model-value="told"
  />
</template>

<style scoped>
.number-field {
  width: 6.5rem;
}
.number-field :deep(input) {
  width: 100%;
  font-family: var(--mono);
}
</style>
