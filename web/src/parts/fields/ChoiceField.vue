<script setup lang="ts" generic="V">
import Select from "primevue/select";
import { computed } from "vue";

import { countOf, type Given, type Option, optionsOf } from "./options";

/** One of several. Long lists can be searched by typing. */
const props = defineProps<{
  options: readonly Given<V>[];
  /** What is chosen, in words, for those who hear the page and for tooltips. */
  label?: string;
  id?: string;
  placeholder?: string;
  disabled?: boolean;
}>();
const model = defineModel<V | null>();
const SEARCHED = 12;
// The component takes an empty text for nothing chosen; here it is a value like others.
const EMPTY = "\u0000";
const inner = (value: unknown) => (value === "" ? EMPTY : value);
const chosen = computed({
  get: () => inner(model.value),
  set: (value) => (model.value = (value === EMPTY ? "" : value) as V | null),
});
const shown = computed(() =>
  optionsOf(props.options).map((one) =>
    "group" in one ? { ...one, options: one.options.map(wrapped) } : wrapped(one),
  ),
);
function wrapped(one: Option<V>) {
  return { ...one, value: inner(one.value) };
}
const grouped = computed(() => shown.value.some((one) => "group" in one));
</script>

<template>
  <Select
    v-model="chosen"
    :options="shown"
    option-label="label"
    option-value="value"
    option-disabled="disabled"
    :option-group-label="grouped ? 'group' : undefined"
    :option-group-children="grouped ? 'options' : undefined"
    :placeholder="placeholder"
    :disabled="disabled"
    :aria-label="label"
    :label-id="id"
    :filter="countOf(optionsOf(options)) > SEARCHED"
    auto-filter-focus
    reset-filter-on-hide
  >
    <template #option="{ option }">
      <span :title="option.help">{{ option.label }}</span>
    </template>
  </Select>
</template>
