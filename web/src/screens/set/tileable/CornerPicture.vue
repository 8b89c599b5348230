<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import { t } from "@/texts/tileable";

import { movedTo } from "./corners";

/** The picture with the four corners of what is cut out, moved by hand or by arrow keys. */
const props = defineProps<{ url: string; corners: number[]; straight: boolean; disabled: boolean }>();
const emit = defineEmits<{ change: [corners: number[]] }>();
const frame = ref<HTMLElement | null>(null);
const held = ref(-1);
const LABELS = [t("upperLeft"), t("upperRight"), t("lowerRight"), t("lowerLeft")];
const places = computed(() =>
  LABELS.map((label, at) => ({ label, x: props.corners[2 * at]!, y: props.corners[2 * at + 1]! })),
);
const outline = computed(() => places.value.map(({ x, y }) => `${x * 100},${y * 100}`).join(" "));
const percent = (share: number) => Math.round(share * 1000) / 10;

function hold(at: number, event: PointerEvent): void {
  if (props.disabled) return;
  held.value = at;
  (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
}
function drag(event: PointerEvent): void {
  if (held.value < 0 || !frame.value) return;
  const box = frame.value.getBoundingClientRect();
  const [x, y] = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
  emit("change", movedTo(props.corners, held.value, x, y, props.straight));
}
const STEPS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
function onKey(at: number, event: KeyboardEvent): void {
  const step = STEPS[event.key];
  if (!step || props.disabled) return;
  event.preventDefault();
  const by = event.shiftKey ? 0.05 : 0.005;
  const { x, y } = places.value[at]!;
  emit("change", movedTo(props.corners, at, x + step[0] * by, y + step[1] * by, props.straight));
}
</script>

<template>
  <div ref="frame" class="picture">
    <img :src="url" :alt="t('whatIsCutOut')" draggable="false" />
    <svg viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true">
      <path class="away" :d="`M0 0H100V100H0Z M${outline.replaceAll(' ', ' L')} Z`" fill-rule="evenodd" />
      <polygon :points="outline" />
    </svg>
    <Button
      v-for="(one, at) in places"
      :key="one.label"
      class="corner"
      severity="contrast"
      :disabled="disabled"
      :style="{ left: `${one.x * 100}%`, top: `${one.y * 100}%` }"
      :aria-label="t('cornerAt', { corner: one.label, x: percent(one.x), y: percent(one.y) })"
      :title="t('cornerHelp')"
      @pointerdown="hold(at, $event)"
      @pointermove="drag"
      @pointerup="held = -1"
      @keydown="onKey(at, $event)"
    />
  </div>
</template>

<style scoped>
.picture {
  position: relative;
  /* Corners at the border stand out over it by half. */
  margin: 16px;
  line-height: 0;
  touch-action: none;
}
img {
  width: 100%;
  user-select: none;
}
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.away {
  fill: rgb(0 0 0 / 55%);
}
polygon {
  fill: none;
  stroke: #fff;
  stroke-width: 2px;
  vector-effect: non-scaling-stroke;
}
.corner {
  position: absolute;
  width: 24px;
  height: 24px;
  min-width: 0;
  padding: 0;
  border: 2px solid #fff;
  border-radius: 50%;
  outline: 2px solid #000;
  background: rgb(128 128 128 / 40%);
  transform: translate(-50%, -50%);
  cursor: grab;
}
.corner:focus-visible {
  outline: 3px solid var(--accent);
}
</style>
