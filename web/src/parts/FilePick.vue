<script setup lang="ts">
/** A link that chooses a file, or several that belong together. The field itself is there for the keyboard and for readers; the words stand for it. */
defineProps<{ label: string; accept: string; multiple?: boolean }>();
const emit = defineEmits<{ files: [files: File[]] }>();
function chosen(input: HTMLInputElement): void {
  const files = [...(input.files ?? [])];
  if (files.length) emit("files", files);
  input.value = "";
}
</script>

<template>
  <span class="pick"
    ><slot /><input
      type="file"
      :accept="accept"
      :multiple="multiple"
      :aria-label="label"
      @change="chosen($event.target as HTMLInputElement)"
  /></span>
</template>

<style scoped>
.pick {
  position: relative;
  color: var(--accent);
}
.pick:focus-within {
  outline: 2px solid var(--accent);
}
input {
  position: absolute;
  inset: 0;
  width: 100%;
  opacity: 0;
  cursor: pointer;
}
</style>
