<script setup lang="ts">
import Button from "primevue/button";

import { groundPicture, type GroundRow } from "@/api/ground";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/ground";

/** The project's patches of ground: a picture of each from above. */
defineProps<{ slug: string; rows: GroundRow[]; chosen: number }>();
const emit = defineEmits<{ choose: [id: number] }>();
</script>

<template>
  <ul class="patches" :aria-label="t('ground')">
    <li v-for="one in rows" :key="one.id">
      <Button
        text
        severity="secondary"
        class="patch"
        :class="{ chosen: one.id === chosen }"
        :aria-pressed="one.id === chosen"
        @click="emit('choose', one.id)"
      >
        <span class="picture"><img :src="groundPicture(slug, one)" alt="" loading="lazy" /></span>
        <span class="name">{{ one.name }}</span>
        <span class="row soft small">
          <Mark v-if="one.empty" severity="error" :count="one.empty" />
          {{
            one.empty
              ? t("layersOfEmpty", { layers: one.layers, count: one.empty })
              : t("nLayers", { count: one.layers })
          }}
        </span>
        <span class="soft small">{{ t("squareMetres", { metres: one.metres }) }}</span>
      </Button>
    </li>
  </ul>
</template>

<style scoped>
.patches {
  list-style: none;
  margin: 0;
  padding: var(--space-2);
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(8rem, 1fr));
  gap: var(--space-2);
}
.patch {
  width: 100%;
  display: grid;
  gap: 2px;
  justify-items: start;
  text-align: left;
  padding: var(--space-2);
  border: 1px solid transparent;
}
.chosen {
  border-color: var(--accent);
  background: var(--accent-wash);
}
.picture {
  width: 100%;
  aspect-ratio: 1;
  background: var(--surround);
}
.picture img {
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.name {
  color: var(--ink);
  font-weight: 600;
  overflow-wrap: anywhere;
}
</style>
