<script setup lang="ts">
import { computed } from "vue";

import { t } from "@/texts/ground";

import { type Land, section } from "./land";

/** The heights along a line over the land. */
const props = defineProps<{
  land: Land;
  line: { from: { x: number; y: number }; to: { x: number; y: number } } | null;
}>();
const WIDE = 1000;
const HIGH = 100;
const length = computed(() =>
  props.line ? Math.hypot(props.line.to.x - props.line.from.x, props.line.to.y - props.line.from.y) : 0,
);
const heights = computed(() =>
  props.line && length.value > 0 ? section(props.land, props.line.from, props.line.to) : [],
);
const low = computed(() => Math.min(...heights.value));
const high = computed(() => Math.max(...heights.value));
const path = computed(() => {
  const size = Math.max(high.value - low.value, 0.01);
  return heights.value
    .map((one, at) => {
      const x = (at / (heights.value.length - 1)) * WIDE;
      const y = HIGH - 6 - ((one - low.value) / size) * (HIGH - 12);
      return `${at ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`;
    })
    .join("");
});
</script>

<template>
  <div class="section" data-test="section">
    <p v-if="!heights.length" class="soft">{{ t("dragALine") }}</p>
    <template v-else>
      <svg
        :viewBox="`0 0 ${WIDE} ${HIGH}`"
        preserveAspectRatio="none"
        role="img"
        :aria-label="t('sectionShown')"
      >
        <path :d="path" />
      </svg>
      <p class="small">
        {{
          t("sectionFacts", {
            length: length.toFixed(1),
            low: low.toFixed(2),
            high: high.toFixed(2),
          })
        }}
      </p>
    </template>
  </div>
</template>

<style scoped>
.section {
  padding: var(--space-2) var(--space-3);
  background: var(--sheet);
  border-top: 1px solid var(--line);
}
svg {
  width: 100%;
  height: 5rem;
  background: var(--surround);
}
path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}
</style>
