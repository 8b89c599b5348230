<script setup lang="ts">
import Button from "primevue/button";
import Tag from "primevue/tag";
import { computed } from "vue";

import { type Listed, previewOf } from "@/api/scans";
import { t } from "@/texts/scans";

/** One surface of a library: its picture, its size, which resolution is enough, whether it may be used. */
const props = defineProps<{
  slug: string;
  library: string;
  surface: Listed;
  chosen: boolean;
  distance: number;
}>();
const emit = defineEmits<{ pick: [] }>();
const enough = computed(() => props.surface.fits.find((one) => one.is_enough));
</script>

<template>
  <Button
    text
    :class="['card', { chosen }]"
    :data-surface="surface.id"
    :aria-pressed="chosen"
    @click="emit('pick')"
  >
    <img :src="previewOf(slug, library, surface)" alt="" loading="lazy" />
    <strong>{{ surface.title }}</strong>
    <span class="soft">{{ t("surfaceSize", { metres: surface.metres, revision: surface.revision }) }}</span>
    <Tag v-if="surface.refused" severity="danger" :value="t('notTaken')" :title="surface.problem" />
    <Tag v-else-if="surface.taken" severity="secondary" :value="t('isTaken')" />
    <span v-else-if="enough" :title="t('enoughTitle', { distance })">{{
      t("enough", { pixels: enough.pixels })
    }}</span>
  </Button>
</template>

<style scoped>
.card {
  display: grid;
  gap: 2px;
  justify-items: start;
  align-content: start;
  padding: var(--space-2);
  text-align: left;
  color: inherit;
  background: var(--sheet);
  border: 1px solid var(--line);
}
.card.chosen {
  border-color: var(--accent);
  outline: 2px solid var(--accent);
}
img {
  width: 100%;
  aspect-ratio: 1;
  object-fit: cover;
  background: var(--surround);
}
</style>
