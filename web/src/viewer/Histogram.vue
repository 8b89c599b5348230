<script setup lang="ts">
import { computed } from "vue";

import { useHistogram } from "@/api/queries";
import type { TextureMap } from "@/api/types";
import { t } from "@/texts/viewer";

/** Every texel counted: each channel over its range, and what is clipped at either end. */
const props = defineProps<{ slug: string; map: TextureMap; behind: boolean }>();
const counted = useHistogram(
  () => props.slug,
  () => props.map,
);
const WIDTH = 256;
const HEIGHT = 72;
const NAMES: Record<string, string> = {
  r: t("red"),
  g: t("green"),
  b: t("blue"),
  a: t("alpha"),
  y: t("grey"),
};

const rows = computed(() =>
  Object.entries(counted.data.value ?? {}).map(([letter, one]) => {
    // The square root shows what is rare beside what is common.
    const roots = one.counts.map(Math.sqrt);
    const top = Math.max(1, ...roots);
    const points = roots.map((value, at) => `${at},${(HEIGHT * (1 - value / top)).toFixed(1)}`);
    return {
      letter,
      name: NAMES[letter] ?? letter,
      path: `M0,${HEIGHT}L${points.join("L")}L${WIDTH},${HEIGHT}Z`,
      ...one,
    };
  }),
);
const percent = (share: number) =>
  share === 0 ? "none" : share < 0.0005 ? t("under01") : `${(share * 100).toFixed(1)} %`;
</script>

<template>
  <aside class="histogram" :aria-label="t('histogram')">
    <p v-if="counted.isPending.value" class="soft">{{ t("counting") }}</p>
    <p v-if="behind" class="soft">{{ t("ofTheMapAsItIs") }}</p>
    <figure v-for="row in rows" :key="row.letter">
      <figcaption>
        <strong>{{ row.name }}</strong>
        <span :class="{ clipped: row.black > 0.001 }">{{ t("at0", { percent: percent(row.black) }) }}</span>
        <span :class="{ clipped: row.white > 0.001 }">{{ t("at1", { percent: percent(row.white) }) }}</span>
      </figcaption>
      <svg
        :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
        preserveAspectRatio="none"
        role="img"
        :aria-label="`${row.name}: counts`"
      >
        <path :d="row.path" />
      </svg>
    </figure>
  </aside>
</template>

<style scoped>
.histogram {
  position: absolute;
  right: 8px;
  top: 8px;
  width: 272px;
  padding: 6px 8px;
  display: grid;
  gap: 6px;
  background: var(--sheet);
  font-size: 12px;
}
figure,
p {
  margin: 0;
}
figcaption {
  display: flex;
  gap: 10px;
  font-variant-numeric: tabular-nums;
  color: var(--ink-soft);
}
figcaption strong {
  flex: 1;
  color: var(--ink);
}
.clipped {
  color: var(--warning);
  font-weight: 600;
}
svg {
  display: block;
  width: 100%;
  height: 48px;
  background: var(--paper);
}
path {
  fill: var(--ink-soft);
}
</style>
