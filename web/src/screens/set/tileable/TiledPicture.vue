<script setup lang="ts">
import { computed } from "vue";

import type { Tried } from "@/api/tileable";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/tileable";

/** A picture repeated side by side, with how strongly its borders show. */
const props = defineProps<{
  title: string;
  tried: Tried | null;
  tiles: number;
  waiting: boolean;
  problem: string;
}>();
const isSeen = computed(() => props.tried !== null && Math.max(...props.tried.seam) > props.tried.limit);
const steps = computed(() => ({
  across: (props.tried?.seam[0] ?? 0).toFixed(2),
  down: (props.tried?.seam[1] ?? 0).toFixed(2),
}));
const drawn = computed(() => ({
  backgroundImage: props.tried ? `url("${props.tried.url}")` : "none",
  backgroundSize: `${100 / props.tiles}% ${100 / props.tiles}%`,
  aspectRatio: props.tried ? `${props.tried.whole[0]} / ${props.tried.whole[1]}` : "1",
}));
</script>

<template>
  <figure :data-waiting="waiting">
    <figcaption class="row">
      <strong>{{ title }}</strong>
      <span class="grow" />
      <template v-if="tried">
        <Mark :severity="isSeen ? 'warning' : 'fine'" />
        <span class="small">{{ isSeen ? t("seamShows", steps) : t("seamIsHidden", steps) }}</span>
      </template>
    </figcaption>
    <div
      class="tiles"
      :style="drawn"
      role="img"
      :aria-label="t('tilesOf', { title, count: tiles * tiles })"
    />
    <p v-if="problem" class="error" role="alert">{{ problem }}</p>
    <p v-else-if="tried" class="soft small mono">{{ tried.whole[0] }} × {{ tried.whole[1] }}</p>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  display: grid;
  gap: var(--space-1);
  align-content: start;
  min-width: 0;
}
.tiles {
  width: 100%;
  max-height: 56vh;
  background-color: var(--surround);
  background-repeat: repeat;
}
</style>
