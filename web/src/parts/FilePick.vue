<script setup lang="ts">
import Button from "primevue/button";
import { ref } from "vue";

/** A button that chooses a file, several that belong together, or a folder. */
defineProps<{
  label: string;
  accept?: string;
  multiple?: boolean;
  folder?: boolean;
  outlined?: boolean;
  text?: boolean;
  icon?: string;
  /** The hidden field's mark for tests. */
  test?: string;
}>();
const emit = defineEmits<{ files: [files: File[]] }>();
const field = ref<HTMLInputElement>();
function chosen(): void {
  const files = [...(field.value!.files ?? [])];
  if (files.length) emit("files", files);
  field.value!.value = "";
}
defineExpose({ open: () => field.value?.click() });
</script>

<template>
  <span>
    <Button
      type="button"
      :label="label"
      :outlined="outlined"
      :text="text"
      :icon="icon"
      @click="field?.click()"
    />
    <!-- eslint-disable-next-line vue/no-restricted-html-elements -- only a native field opens the file chooser -->
    <input
      ref="field"
      type="file"
      hidden
      :accept="accept"
      :multiple="multiple"
      :webkitdirectory="folder || undefined"
      :data-test="test"
      :aria-label="label"
      @change="chosen"
    />
  </span>
</template>
