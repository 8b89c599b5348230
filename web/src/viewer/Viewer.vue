<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";

import { pictureOf } from "@/api/pictures";
import type { TextureMap } from "@/api/types";

import { type Channel, type Comparison, loadPicture, Renderer } from "./renderer";
import { describe, Values } from "./values";
import { framed, type Standing, texelAt, zoomed } from "./view";

/** One map, as large as there is room, with exact values under the pointer; compared with its source when asked. */
const props = withDefaults(
  defineProps<{
    slug: string;
    map: TextureMap;
    colour: boolean;
    channel: Channel;
    comparison?: Comparison;
    place?: { x: number; y: number; width: number; height: number } | null;
    repeat?: number;
  }>(),
  { comparison: "none", place: null, repeat: 1 },
);

const canvas = ref<HTMLCanvasElement>();
const frame = ref<HTMLElement>();
const standing = ref<Standing>({ zoom: 1, left: 0, top: 0 });
const split = ref(0.5);
const problem = ref("");
const ready = ref(false);
const line = ref("");
const size = ref({ width: props.map.width, height: props.map.height });
let renderer: Renderer | null = null;
let values: Values | null = null;
let asked: AbortController | null = null;
let observer: ResizeObserver | null = null;
let pending = 0;
let pointer: { x: number; y: number } | null = null;
let dragging: "pan" | "wipe" | null = null;
let wasFramed = true;

const ratio = () => window.devicePixelRatio || 1;

function draw(): void {
  pending ||= requestAnimationFrame(() => {
    pending = 0;
    const scale = ratio();
    renderer?.draw({
      zoom: standing.value.zoom * scale,
      left: standing.value.left * scale,
      top: standing.value.top * scale,
      channel: props.channel,
      comparison: props.comparison,
      split: split.value,
      repeat: props.repeat,
    });
  });
}

function fit(): void {
  if (!frame.value) return;
  const { clientWidth, clientHeight } = frame.value;
  const { width, height } = size.value;
  standing.value = framed(width * props.repeat, height * props.repeat, clientWidth, clientHeight);
  wasFramed = true;
  draw();
}

function zoom(factor: number, x?: number, y?: number): void {
  if (!frame.value) return;
  const { clientWidth, clientHeight } = frame.value;
  const smallest = framed(size.value.width, size.value.height, clientWidth, clientHeight).zoom;
  standing.value = zoomed(standing.value, factor, x ?? clientWidth / 2, y ?? clientHeight / 2, smallest);
  wasFramed = false;
  draw();
}

async function load(): Promise<void> {
  asked?.abort();
  asked = new AbortController();
  ready.value = false;
  problem.value = "";
  const { signal } = asked;
  try {
    const channel = props.channel === "a" ? "a" : undefined;
    const side =
      renderer && Math.max(props.map.width, props.map.height) > renderer.largest
        ? renderer.largest
        : undefined;
    const wanted = { channel, side };
    const picture = await loadPicture(pictureOf(props.slug, props.map, wanted), signal);
    const whole: [number, number] = side
      ? [props.map.width, props.map.height]
      : [picture.width, picture.height];
    const resized = whole[0] !== size.value.width || whole[1] !== size.value.height;
    size.value = { width: whole[0], height: whole[1] };
    renderer?.load(0, picture, whole);
    if (props.comparison !== "none") {
      renderer?.load(
        1,
        await loadPicture(pictureOf(props.slug, props.map, { ...wanted, source: true }), signal),
      );
    }
    if (wasFramed || resized) fit();
    else draw();
    ready.value = true;
  } catch (error) {
    if (!signal.aborted) problem.value = (error as Error).message;
  }
}

function readOut(): void {
  const where = pointer && texelAt(standing.value, pointer.x, pointer.y, size.value.width, size.value.height);
  if (!where || !values) {
    line.value = "";
    return;
  }
  const texel = values.texel(where.x, where.y);
  const said = texel ? describe(texel, props.map, props.colour) : "…";
  line.value = `${where.x}, ${where.y}   ${said}`;
}

function newValues(): void {
  const address = `/api/projects/${props.slug}/maps/${props.map.id}/values?v=${props.map.digest.slice(0, 16)}`;
  values = new Values(address, readOut);
  readOut();
}

function onMove(event: PointerEvent): void {
  const box = canvas.value!.getBoundingClientRect();
  pointer = { x: event.clientX - box.left, y: event.clientY - box.top };
  if (dragging === "pan") {
    standing.value = {
      ...standing.value,
      left: standing.value.left + event.movementX,
      top: standing.value.top + event.movementY,
    };
    wasFramed = false;
    draw();
  } else if (dragging === "wipe") {
    split.value = Math.max(0, Math.min(1, pointer.x / box.width));
    draw();
  }
  readOut();
}

function onDown(event: PointerEvent): void {
  const box = canvas.value!.getBoundingClientRect();
  const near = Math.abs(event.clientX - box.left - split.value * box.width) < 10;
  dragging = props.comparison === "wipe" && near ? "wipe" : "pan";
  canvas.value!.setPointerCapture(event.pointerId);
}

function onWheel(event: WheelEvent): void {
  const box = canvas.value!.getBoundingClientRect();
  zoom(2 ** (-event.deltaY / 240), event.clientX - box.left, event.clientY - box.top);
}

onMounted(() => {
  try {
    renderer = new Renderer(canvas.value!);
  } catch (error) {
    problem.value = (error as Error).message;
    return;
  }
  observer = new ResizeObserver(() => {
    const box = frame.value!;
    canvas.value!.width = Math.max(1, Math.round(box.clientWidth * ratio()));
    canvas.value!.height = Math.max(1, Math.round(box.clientHeight * ratio()));
    if (wasFramed) fit();
    else draw();
  });
  observer.observe(frame.value!);
  newValues();
  void load();
});
onBeforeUnmount(() => {
  asked?.abort();
  observer?.disconnect();
  cancelAnimationFrame(pending);
  renderer?.dispose();
});

watch(() => [props.map.digest, props.map.id, props.channel === "a", props.comparison === "none"], load);
watch(() => [props.map.digest, props.map.id], newValues);
watch(() => [props.channel, props.comparison], draw);
watch(() => props.repeat, fit);

const mark = computed(() => {
  const { place } = props;
  if (!place) return null;
  const { zoom: scale, left, top } = standing.value;
  return {
    left: `${left + place.x * scale}px`,
    top: `${top + place.y * scale}px`,
    width: `${place.width * scale}px`,
    height: `${place.height * scale}px`,
  };
});
const percent = computed(() => `${Math.round(standing.value.zoom * 100)} %`);
defineExpose({ fit, zoom });
</script>

<template>
  <div class="viewer">
    <div ref="frame" class="frame" :data-ready="ready">
      <canvas
        ref="canvas"
        :aria-label="`${map.file}, ${map.role}`"
        @pointermove="onMove"
        @pointerdown="onDown"
        @pointerup="dragging = null"
        @pointerleave="((pointer = null), readOut())"
        @wheel.prevent="onWheel"
        @dblclick="fit"
      />
      <div v-if="mark" class="mark" :style="mark" />
      <template v-if="comparison === 'wipe'">
        <span class="side before">source</span><span class="side after">with its steps</span>
      </template>
      <span v-if="comparison === 'difference'" class="side before">difference × 8</span>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    </div>
    <div class="line mono" data-test="values">
      <span>{{
        line || `${size.width} × ${size.height}, ${map.bits} bits, ${map.channels.toUpperCase()}`
      }}</span>
      <span>{{ percent }}</span>
    </div>
  </div>
</template>

<style scoped>
.viewer {
  display: grid;
  grid-template-rows: minmax(0, 1fr) 24px;
  height: 100%;
  min-height: 0;
}
.frame {
  position: relative;
  background: var(--surround);
  overflow: hidden;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  touch-action: none;
  cursor: crosshair;
}
.mark {
  position: absolute;
  border: 2px solid #fff;
  outline: 1px solid #000;
  pointer-events: none;
}
.side {
  position: absolute;
  bottom: 8px;
  padding: 1px 6px;
  background: var(--sheet);
  font-size: 12px;
}
.before {
  left: 8px;
}
.after {
  right: 8px;
}
.problem {
  position: absolute;
  inset: auto 0 40%;
  text-align: center;
  color: var(--on-surround);
}
.line {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 0 8px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  white-space: pre;
  overflow: hidden;
}
</style>
