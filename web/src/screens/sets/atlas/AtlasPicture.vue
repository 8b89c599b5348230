<script setup lang="ts">
import type { AtlasPlan } from "@/api/atlases";
import { pictureOf } from "@/api/pictures";
import type { TextureSet } from "@/api/types";
import { t } from "@/texts/atlas";

/** Cells where they would lie, each with the picture of its set. */
const props = defineProps<{ slug: string; plan: AtlasPlan; sets: TextureSet[] }>();
function pictured(id: number): string | null {
  const maps = props.sets.find((one) => one.id === id)?.maps.filter((one) => one.in_use && one.width) ?? [];
  const map = maps.find((one) => one.role === "base_color") ?? maps[0];
  return map ? pictureOf(props.slug, map, { side: 256 }) : null;
}
</script>

<template>
  <svg
    class="atlas"
    role="img"
    :viewBox="`0 0 ${plan.width} ${plan.height}`"
    :aria-label="t('planOf')"
    data-test="atlas-picture"
  >
    <rect class="empty" :width="plan.width" :height="plan.height" />
    <g v-for="cell in plan.cells" :key="cell.set">
      <rect
        class="room"
        :x="cell.x - plan.padding"
        :y="cell.y - plan.padding"
        :width="cell.width + 2 * plan.padding"
        :height="cell.height + 2 * plan.padding"
      />
      <image
        v-if="pictured(cell.set)"
        :href="pictured(cell.set)!"
        :x="cell.x"
        :y="cell.y"
        :width="cell.width"
        :height="cell.height"
        preserveAspectRatio="none"
      />
      <rect class="cell" :x="cell.x" :y="cell.y" :width="cell.width" :height="cell.height">
        <title>{{ cell.name }}, {{ cell.width }} × {{ cell.height }}</title>
      </rect>
    </g>
  </svg>
</template>

<style scoped>
.atlas {
  width: 100%;
  max-height: 56vh;
}
.empty {
  fill: #2b2b2b;
}
.room {
  fill: #5c5c5c;
}
.cell {
  fill: transparent;
  stroke: #fff;
  stroke-width: 1px;
  vector-effect: non-scaling-stroke;
}
</style>
