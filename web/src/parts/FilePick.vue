<script setup lang="ts">
/** A link that chooses a file. The field itself is there for the keyboard and for readers; the words stand for it. */
defineProps<{ label: string; accept: string }>();
const emit = defineEmits<{ file: [file: File] }>();
function chosen(input: HTMLInputElement): void {
  const file = input.files?.[0];
  if (file) emit("file", file);
  input.value = "";
}
</script>

<template>
  <span class="pick"
    ><slot /><input
      type="file"
      :accept="accept"
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
