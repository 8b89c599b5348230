<script setup lang="ts">
import Button from "primevue/button";
import { ref, watch } from "vue";

import { t } from "@/texts/parts";

/** One file twice, side by side on a neutral grey, with what is said of it and what can be done. */
const props = defineProps<{
  path: string;
  words: string;
  before: string | null;
  after: string | null;
  beforeLabel: string;
  afterLabel: string;
}>();
const emit = defineEmits<{ look: [] }>();
/** A file that cannot be drawn stands without a picture. */
const broken = ref<string[]>([]);
watch([() => props.before, () => props.after], () => (broken.value = []));
const sides = () => [
  { label: props.beforeLabel, url: props.before },
  { label: props.afterLabel, url: props.after },
];
</script>

<template>
  <article class="pair" :data-file="path">
    <Button text class="pictures" :disabled="!before && !after" @click="emit('look')">
      <span class="visually-hidden">{{ t("lookAtBoth", { path }) }}</span>
      <span v-for="side in sides()" :key="side.label" class="side">
        <img
          v-if="side.url && !broken.includes(side.url)"
          :src="side.url"
          alt=""
          loading="lazy"
          @error="broken.push(side.url)"
        />
        <span v-else class="none">{{ t("noPicture") }}</span>
        <span class="soft">{{ side.label }}</span>
      </span>
    </Button>
    <div class="told">
      <div class="mono path">{{ path }}</div>
      <div>{{ words }}</div>
      <slot />
    </div>
  </article>
</template>

<style scoped>
.pair {
  display: flex;
  gap: var(--space-3);
  padding: var(--space-2) 0;
  border-top: 1px solid var(--line);
}
.pictures {
  display: flex;
  gap: var(--space-1);
  align-self: start;
  padding: var(--space-1);
  border: 0;
  background: var(--surround);
  color: var(--on-surround);
  cursor: zoom-in;
}
.pictures:disabled {
  cursor: default;
}
.side {
  display: grid;
  width: 6rem;
  justify-items: center;
  gap: 2px;
}
.side .soft {
  color: inherit;
}
img,
.none {
  width: 6rem;
  height: 6rem;
  object-fit: contain;
}
.none {
  display: grid;
  place-items: center;
}
.told {
  display: grid;
  gap: var(--space-1);
  align-content: start;
  min-width: 0;
}
.path {
  overflow-wrap: anywhere;
}
</style>
