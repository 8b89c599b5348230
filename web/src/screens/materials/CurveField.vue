<script setup lang="ts">
import { computed, ref } from "vue";

import { t } from "@/texts/materials";

import { movedTo, type Point, pointsOf, textsOf, withoutPoint, withPoint } from "./curves";

/** A curve drawn by hand: points are dragged, added by a double click, taken away by Delete, moved by arrow keys. */
const props = defineProps<{ points: string[]; label: string }>();
const emit = defineEmits<{ change: [points: string[]] }>();
const WIDE = 180;
const HIGH = 110;
/** Around the picture, so that points at its edges are whole. */
const ROOM = 8;
const STEP = 0.02;
const picture = ref<SVGSVGElement | null>(null);
/** While a point is dragged: all points as the hand has them. */
const held = ref<Point[] | null>(null);
const dragged = ref(-1);
const shown = computed(() => held.value ?? pointsOf(props.points));
const at = (one: Point) => ({ x: one.x * WIDE, y: (1 - one.y) * HIGH });
const line = computed(() => {
  const all = shown.value;
  const ends = [{ x: 0, y: all[0]!.y }, ...all, { x: 1, y: all[all.length - 1]!.y }];
  return ends.map((one) => `${at(one).x},${at(one).y}`).join(" ");
});
const said = (one: Point) => t("pointAt", { x: one.x.toFixed(2), y: one.y.toFixed(2) });

function placeOf(event: MouseEvent): Point {
  const box = picture.value!.getBoundingClientRect();
  const across = ((event.clientX - box.left) / box.width) * (WIDE + 2 * ROOM) - ROOM;
  const down = ((event.clientY - box.top) / box.height) * (HIGH + 2 * ROOM) - ROOM;
  return { x: across / WIDE, y: 1 - down / HIGH };
}
function give(points: Point[]): void {
  held.value = null;
  emit("change", textsOf(points));
}
function onDown(index: number, event: PointerEvent): void {
  dragged.value = index;
  held.value = shown.value;
  picture.value?.setPointerCapture?.(event.pointerId);
}
function onMove(event: PointerEvent): void {
  if (held.value) held.value = movedTo(held.value, dragged.value, placeOf(event));
}
function onUp(): void {
  if (held.value) give(held.value);
}
function onKey(index: number, event: KeyboardEvent): void {
  const one = shown.value[index]!;
  const moves: Record<string, Point> = {
    ArrowLeft: { x: one.x - STEP, y: one.y },
    ArrowRight: { x: one.x + STEP, y: one.y },
    ArrowUp: { x: one.x, y: one.y + STEP },
    ArrowDown: { x: one.x, y: one.y - STEP },
  };
  const to = moves[event.key];
  if (to) give(movedTo(shown.value, index, to));
  else if (event.key === "Delete") give(withoutPoint(shown.value, index));
  else return;
  event.preventDefault();
  event.stopPropagation();
}
</script>

<template>
  <svg
    ref="picture"
    class="curve"
    :viewBox="`${-ROOM} ${-ROOM} ${WIDE + 2 * ROOM} ${HIGH + 2 * ROOM}`"
    role="group"
    :aria-label="label"
    @pointermove="onMove"
    @pointerup="onUp"
    @dblclick="give(withPoint(shown, placeOf($event)))"
  >
    <rect x="0" y="0" :width="WIDE" :height="HIGH" />
    <path :d="`M0 ${HIGH / 2}H${WIDE}M${WIDE / 2} 0V${HIGH}`" />
    <polyline :points="line" />
    <circle
      v-for="(one, index) in shown"
      :key="index"
      :cx="at(one).x"
      :cy="at(one).y"
      r="6"
      tabindex="0"
      role="slider"
      :aria-label="said(one)"
      :aria-valuenow="one.y"
      :aria-valuetext="said(one)"
      @pointerdown="onDown(index, $event)"
      @keydown="onKey(index, $event)"
    />
  </svg>
  <span class="soft">{{ t("dragPoints") }}</span>
</template>

<style scoped>
.curve {
  width: 212px;
  height: 136px;
  touch-action: none;
}
rect {
  fill: var(--paper);
  stroke: var(--line-strong);
}
path {
  stroke: var(--line);
  fill: none;
}
polyline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
}
circle {
  fill: var(--accent);
  cursor: grab;
}
circle:focus-visible {
  outline: 2px solid var(--accent);
  outline-offset: 2px;
}
</style>
