<script setup lang="ts">
import InputText from "primevue/inputtext";
import { ref, watch } from "vue";

/**
 * A line of text that is told when it is finished: by Enter or by leaving. Escape brings the former text back. What
 * somebody is typing stays, whatever else the page draws anew meanwhile.
 */
const props = defineProps<{
  value: string | null | undefined;
  label?: string;
  id?: string;
  placeholder?: string;
  disabled?: boolean;
  mono?: boolean;
  maxlength?: number;
  /** Empty after each text that was told: for adding one after the other. */
  clears?: boolean;
}>();
const emit = defineEmits<{ change: [text: string] }>();
const typed = ref(props.value ?? "");
const typing = ref(false);
watch(
  () => props.value,
  (value) => {
    if (!typing.value) typed.value = value ?? "";
  },
);
function done(): void {
  typing.value = false;
  const text = typed.value;
  if (props.clears) {
    typed.value = "";
    if (text.trim()) emit("change", text);
  } else if (text !== (props.value ?? "")) emit("change", text);
}
function back(): void {
  typed.value = props.value ?? "";
}
</script>

<template>
  <InputText
    :id="id"
    v-model="typed"
    :class="{ mono }"
    :placeholder="placeholder"
    :disabled="disabled"
    :aria-label="label"
    :maxlength="maxlength"
    autocomplete="off"
    spellcheck="false"
    @focus="typing = true"
    @blur="done"
    @keydown.enter="done"
    @keydown.escape.stop="back"
  />
</template>
