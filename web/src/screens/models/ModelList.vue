<script setup lang="ts">
import Button from "primevue/button";

import { type ModelRow, pictureOf } from "@/api/models";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/models";

import { count } from "./wearing";

/** The project's models: a picture of each, what of it is empty or wrong. */
defineProps<{ slug: string; rows: ModelRow[]; chosen: number }>();
const emit = defineEmits<{ choose: [id: number] }>();
function said(one: ModelRow): string {
  if (one.state === "measuring") return t("beingMeasured");
  if (one.state === "unreadable") return t("unreadable");
  return one.empty
    ? t("slotsOfEmpty", { slots: one.slots, count: one.empty })
    : t("nSlots", { count: one.slots });
}
</script>

<template>
  <ul class="models" :aria-label="t('models')">
    <li v-for="one in rows" :key="one.id">
      <Button
        text
        severity="secondary"
        class="model"
        :class="{ chosen: one.id === chosen }"
        :aria-pressed="one.id === chosen"
        @click="emit('choose', one.id)"
      >
        <span class="picture">
          <img v-if="one.state === 'ready'" :src="pictureOf(slug, one)" alt="" loading="lazy" />
        </span>
        <span class="name">{{ one.name }}</span>
        <span class="row soft small">
          <Mark v-if="one.errors || one.state === 'unreadable'" severity="error" :count="one.errors" />
          <Mark v-if="one.warnings" severity="warning" :count="one.warnings" />
          <Mark v-if="one.state === 'measuring'" severity="judging" />
          {{ said(one) }}
        </span>
        <span v-if="one.triangles" class="soft small">{{
          t("triangles", { triangles: count(one.triangles) })
        }}</span>
      </Button>
    </li>
  </ul>
</template>

<style scoped>
.models {
  list-style: none;
  margin: 0;
  padding: var(--space-2);
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(8rem, 1fr));
  gap: var(--space-2);
}
.model {
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
