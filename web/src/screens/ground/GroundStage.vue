<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref, watch } from "vue";

import type { Ground, GroundStroke } from "@/api/ground";
import { useKeys } from "@/app/keys";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import SliderField from "@/parts/fields/SliderField.vue";
import OverPicture from "@/parts/OverPicture.vue";
import { detail } from "@/preview/detail";
import { turned, useOrbit } from "@/preview/useOrbit";
import { useScene } from "@/preview/useScene";
import { t } from "@/texts/ground";

import type { Brush } from "./brush";
import type { Camera, Look, Misread } from "./groundScene";
import { sharesOf, tintOf } from "./layers";
import SectionLine from "./SectionLine.vue";
import { useGroundStage } from "./useGroundStage";

/** The landscape: looked at by a person, from above or from afar; painted on while a brush is in hand. */
const props = defineProps<{
  slug: string;
  ground: Ground;
  /** Layers that are not drawn, by key. */
  hidden: string[];
  /** The layer that is painted, its index, or -1; takes: whether it is taken away. */
  painted: number;
  takes: boolean;
  brush: Brush;
}>();
const emit = defineEmits<{
  stroke: [stroke: GroundStroke, done: (kept: unknown) => void];
  shares: [shares: number[]];
}>();
const canvas = ref<HTMLCanvasElement | null>(null);
const frame = ref<HTMLElement | null>(null);
const kind = ref<Camera>("far");
const look = ref<Look>("surface");
const misread = ref<Misread>("none");
/** Before: as the rules lay it, without what was painted. */
const before = ref(false);
const sun = ref(315);
const under = ref<{ x: number; y: number } | null>(null);
const measuring = ref(false);
const line = ref<{ from: { x: number; y: number }; to: { x: number; y: number } } | null>(null);
const cameras = [
  { value: "far" as const, label: t("fromAfar") },
  { value: "above" as const, label: t("fromAbove") },
  { value: "person" as const, label: t("asAPerson") },
];
const looks = [
  { value: "surface" as const, label: t("surface") },
  { value: "weights" as const, label: t("weightsAsColours") },
  { value: "land" as const, label: t("landAlone") },
];
const misreadings = [
  { value: "none" as const, label: t("readRight") },
  { value: "weights" as const, label: t("weightsAsSrgb") },
  { value: "green" as const, label: t("greenTurned") },
  { value: "height" as const, label: t("heightsIn8Bits") },
];
const isPainting = computed(() => props.painted >= 0);
const shown = computed(() => ({
  look: look.value,
  misread: misread.value,
  painting: !before.value,
  sun: sun.value,
  layers: props.ground.layers.map((one, at) => ({
    tile: one.tile, turn: one.turn, repeat: one.repeat, edge: one.edge,
    shown: !props.hidden.includes(one.key), tint: tintOf(at),
  })),
  brush: isPainting.value && under.value ? { ...under.value, radius: props.brush.radius } : null,
})); // prettier-ignore
function begin(): Promise<void> {
  return attempt(() => stage.load(), t("cannotBeDrawn"));
}
const { scene, state, problem, drawn, draw, attempt } = useScene(
  canvas,
  frame,
  async () => (await import("./groundScene")).GroundScene,
  begin,
  (staged) => staged.draw(shown.value),
);
const stage = useGroundStage(() => props.slug, () => props.ground, scene, draw); // prettier-ignore
watch(shown, draw, { deep: true });
watch(isPainting, () => (before.value = false));
watch(kind, (to) => {
  scene.value?.look(to);
  draw();
});
watch(detail, () => {
  scene.value?.resize(frame.value!.clientWidth, frame.value!.clientHeight);
  draw();
});
function count(): void {
  const { rules, paint } = stage;
  if (rules.value && paint.value)
    emit("shares", sharesOf(rules.value, paint.value, rules.value.length / props.ground.side ** 2));
}
watch([stage.rules, stage.paint], count);

const orbit = useOrbit(
  canvas,
  () => scene.value,
  (degrees) => (sun.value = turned(sun.value, degrees)),
  draw,
);
function placeOf(event: PointerEvent): { x: number; y: number } | null {
  const box = canvas.value!.getBoundingClientRect();
  const [x, y] = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
  return scene.value?.hit(x * 2 - 1, 1 - y * 2) ?? null;
}
/** A pen presses as hard as it does; a mouse has no pressure of its own. */
const pressure = (event: PointerEvent) => (event.pointerType === "pen" ? event.pressure : 1);
let hand: "stroke" | "line" | null = null;
function down(event: PointerEvent): void {
  const place = event.button === 0 ? placeOf(event) : null;
  if (place && isPainting.value) {
    hand = "stroke";
    const strength = props.takes !== event.altKey ? -props.brush.strength : props.brush.strength;
    stage.begin(props.painted, { ...props.brush, strength }, [place.x, place.y, pressure(event)]);
  } else if (place && measuring.value) {
    hand = "line";
    line.value = { from: place, to: place };
  } else return orbit.onDown(event);
  canvas.value!.setPointerCapture(event.pointerId);
}
function move(event: PointerEvent): void {
  if (!isPainting.value && !hand) return orbit.onMove(event);
  const place = placeOf(event);
  under.value = place;
  if (place && hand === "stroke") stage.go([place.x, place.y, pressure(event)]);
  else if (place && hand === "line" && line.value) line.value = { from: line.value.from, to: place };
  else if (!hand) orbit.onMove(event);
}
function up(): void {
  if (hand === "stroke")
    void stage.end((stroke) => new Promise((done) => emit("stroke", stroke, done))).then(count);
  hand = null;
  orbit.onUp();
}
const next = () => {
  const at = cameras.findIndex((one) => one.value === kind.value);
  kind.value = cameras[(at + 1) % cameras.length]!.value;
};
useKeys(t("ground"), [
  { key: "C", does: t("nextCamera"), run: next },
  {
    key: "W",
    does: t("weightsOrSurface"),
    run: () => (look.value = look.value === "weights" ? "surface" : "weights"),
  },
  { key: "P", does: t("beforePainting"), run: () => (before.value = !before.value) },
  { key: "L", does: t("turnTheSun"), run: () => (sun.value = (sun.value + 30) % 360) },
]);
</script>

<template>
  <div class="stage">
    <div class="row bar">
      <ChoiceField v-model="kind" :options="cameras" :label="t('camera')" />
      <ChoiceField v-model="look" :options="looks" :label="t('whatIsShown')" />
      <ChoiceField v-model="misread" :options="misreadings" :label="t('misread')" />
      <CheckField v-model="before" :label="t('beforePainting')" :help="t('beforePaintingHelp')" />
      <span class="light"
        >{{ t("sun") }}
        <SliderField
          :value="sun"
          :low="0"
          :high="359"
          :step="1"
          :label="t('sunFromTheNorth')"
          @move="sun = $event"
          @keep="sun = $event"
      /></span>
      <Button
        outlined
        severity="secondary"
        :label="t('section')"
        :title="t('sectionHelp')"
        :aria-pressed="measuring"
        :class="{ pressed: measuring }"
        @click="measuring = !measuring"
      />
    </div>
    <div ref="frame" class="frame" :data-ready="state === 'ready' && drawn > 0" :data-drawn="drawn">
      <canvas
        ref="canvas"
        :class="{ painting: isPainting || measuring }"
        :aria-label="t('groundShown', { name: ground.name })"
        @pointermove="move"
        @pointerdown="down"
        @pointerup="up"
        @pointercancel="up"
        @pointerleave="under = null"
        @wheel.prevent="orbit.onWheel"
        @contextmenu.prevent
      />
      <OverPicture v-if="state === 'loading'">{{ t("drawing") }}</OverPicture>
      <OverPicture v-if="state === 'failed'" role="alert">{{ problem }}</OverPicture>
    </div>
    <SectionLine v-if="measuring && stage.land.value" :land="stage.land.value" :line="line" />
  </div>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  min-height: 0;
}
.bar {
  flex-wrap: wrap;
  padding: var(--space-2) var(--space-3);
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
.light {
  display: flex;
  align-items: center;
  gap: var(--space-2);
  white-space: nowrap;
}
.frame {
  position: relative;
  background: var(--surround);
  overflow: hidden;
  min-height: 260px;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  touch-action: none;
  cursor: grab;
}
.painting {
  cursor: crosshair;
}
.pressed {
  background: var(--accent-wash);
}
</style>
