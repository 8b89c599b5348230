<script setup lang="ts">
import { t } from "@/texts/preview";
/** This surface, misread in every way, in small pictures: the one that looks like yours says what went wrong. */
defineProps<{ pictures: { key: string; symptom: string; picture: string }[] }>();
const emit = defineEmits<{ pick: [key: string] }>();
</script>

<template>
  <div class="guide" role="group" :aria-label="t('identifyAProblem')">
    <!-- eslint-disable-next-line vue/no-restricted-html-elements -- a picture that is pressed, with no look of a button -->
    <button v-for="one in pictures" :key="one.key" :data-symptom="one.key" @click="emit('pick', one.key)">
      <img :src="one.picture" alt="" />
      {{ one.symptom }}
    </button>
  </div>
</template>

<style scoped>
.guide {
  position: absolute;
  inset: 0;
  overflow: auto;
  background: var(--surround);
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  padding: 8px;
  align-content: start;
  font-size: 12px;
}
.guide button {
  background: var(--sheet);
  padding: 4px;
}
.guide img {
  display: block;
  width: 100%;
}
</style>
