<script setup lang="ts">
import { computed, ref } from "vue";

import type { Region } from "@/api/atlases";
import { t } from "@/texts/atlas";

import { between, type Sides } from "./regions";

/** The map with its regions; dragging over it draws another. Regions are moved exactly by their numbers beside it. */
const props = defineProps<{
  url: string;
  regions: Region[];
  chosen: number;
  sides: Sides;
  strips: boolean;
  nameOfNext: string;
  mayChange: boolean;
}>();
const emit = defineEmits<{ draw: [region: Region]; choose: [at: number] }>();
const frame = ref<HTMLElement | null>(null);
const from = ref<[number, number] | null>(null);
const to = ref<[number, number]>([0, 0]);
const drawn = computed(() =>
  from.value ? between(props.nameOfNext, from.value, to.value, props.sides, props.strips) : null,
);
function at(event: PointerEvent): [number, number] {
  const box = frame.value!.getBoundingClientRect();
  return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
}
function down(event: PointerEvent): void {
  if (!props.mayChange) return;
  frame.value!.setPointerCapture(event.pointerId);
  from.value = to.value = at(event);
}
function up(): void {
  const made = drawn.value;
  const [x, y] = to.value;
  from.value = null;
  // A press that did not drag chooses what lies under it.
  if (made && (props.strips || made.width * made.height > 1e-4)) emit("draw", made);
  else
    emit(
      "choose",
      props.regions.findIndex(
        (one) => x >= one.left && x < one.left + one.width && y >= one.top && y < one.top + one.height,
      ),
    );
}
const shown = computed(() => [...props.regions, ...(drawn.value ? [drawn.value] : [])]);
</script>

<template>
  <div
    ref="frame"
    class="picture"
    :style="{ aspectRatio: `${sides.width} / ${sides.height}` }"
    data-test="regions-picture"
    @pointerdown="down"
    @pointermove="from && (to = at($event))"
    @pointerup="from && up()"
    @pointercancel="from = null"
  >
    <img :src="url" :alt="t('pictureOf')" draggable="false" />
    <span
      v-for="(one, number) in shown"
      :key="number"
      class="region"
      :class="{ chosen: number === chosen, drawn: number === regions.length }"
      :style="{
        left: `${one.left * 100}%`,
        top: `${one.top * 100}%`,
        width: `${one.width * 100}%`,
        height: `${one.height * 100}%`,
      }"
      ><span class="name">{{ one.name }}</span></span
    >
  </div>
</template>

<style scoped>
.picture {
  position: relative;
  line-height: 0;
  touch-action: none;
  cursor: crosshair;
  background: var(--surround);
}
img {
  width: 100%;
  height: 100%;
  user-select: none;
}
.region {
  position: absolute;
  box-sizing: border-box;
  border: 1px solid #fff;
  outline: 1px solid rgb(0 0 0 / 60%);
  pointer-events: none;
  overflow: hidden;
}
.region.chosen {
  border: 3px solid var(--accent);
}
.region.drawn {
  border-style: dashed;
}
.name {
  display: inline-block;
  padding: 1px 4px;
  line-height: 1.3;
  font-size: 0.75rem;
  color: #fff;
  background: rgb(0 0 0 / 65%);
}
</style>
