<script setup lang="ts">
import { computed } from "vue";

import { pictureOf } from "@/api/pictures";
import type { Severity, TextureMap } from "@/api/types";
import { t } from "@/texts/parts";

import Mark from "./Mark.vue";

/** A small picture of a map on a neutral ground, with its worst finding and what was done to it. */
const props = withDefaults(defineProps<{ slug: string; map: TextureMap; side?: number; more?: number }>(), {
  side: 192,
  more: 0,
});
const worst = computed(() => props.map.worst as Severity | null);
/** Placed, but nobody is sure: confirmed or changed once for all files with its suffix (see the habit). */
const guess = computed(() => props.map.set !== null && !props.map.by_hand && props.map.confidence < 0.85);
const title = computed(() => {
  const channel = props.map.channel ? ` [${props.map.channel.toUpperCase()}]` : "";
  const size = props.map.width
    ? `\n${t("sizeAndBits", { width: props.map.width, height: props.map.height, bits: props.map.bits })}`
    : "";
  return `${props.map.file}${channel}${size}\n${props.map.why}`;
});
</script>

<template>
  <span class="print" :title="title">
    <img
      v-if="map.width"
      :src="pictureOf(slug, map, { side })"
      :alt="map.file"
      loading="lazy"
      decoding="async"
      draggable="false"
    />
    <span v-else class="none">{{ t("noPicture") }}</span>
    <Mark v-if="worst && worst !== 'note'" class="worst" :severity="worst" />
    <span v-if="guess" class="tag guess" :title="t('aGuess', { why: map.why })">?</span>
    <span v-if="map.channel" class="tag">{{ map.channel.toUpperCase() }}</span>
    <span v-if="map.recipe.length" class="tag steps" :title="map.recipe.map((s) => s.label).join(', ')">
      {{ map.recipe.length }}×
    </span>
    <span v-if="more" class="tag more">+{{ more }}</span>
  </span>
</template>

<style scoped>
.print {
  position: relative;
  display: block;
  width: 100%;
  aspect-ratio: 1;
  background: var(--surround);
  outline: 1px solid var(--line);
  outline-offset: -1px;
}
img {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.none {
  display: grid;
  place-items: center;
  height: 100%;
  color: var(--on-surround);
  font-size: 11px;
}
.worst,
.tag {
  position: absolute;
  background: var(--sheet);
  line-height: 1;
  padding: 2px 3px;
}
.worst {
  top: 2px;
  right: 2px;
}
.tag {
  left: 2px;
  bottom: 2px;
  font: 650 10px/1 var(--mono);
}
.steps {
  left: auto;
  right: 2px;
  color: var(--accent);
}
.guess {
  left: auto;
  right: 2px;
  top: auto;
  bottom: 2px;
  color: var(--warning);
}
.guess ~ .steps {
  right: 16px;
}
.more {
  left: 2px;
  bottom: auto;
  top: 2px;
}
</style>
