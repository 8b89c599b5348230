<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";

import type { TextureMap } from "@/api/types";

import Histogram from "./Histogram.vue";
import LookTools from "./LookTools.vue";
import { describeLook, type Look } from "./look";
import MipTable from "./MipTable.vue";
import { Renderer } from "./renderer";
import { usePan } from "./usePan";
import { type Other, usePictures } from "./usePictures";
import { describe, Values } from "./values";
import { texelAt } from "./view";

/** One map, as large as there is room, with exact values under the pointer; compared with its source when asked. */
const props = withDefaults(
  defineProps<{
    slug: string;
    map: TextureMap;
    colour: boolean;
    look: Look;
    levels: number;
    /** Names all that a mip chain of the map depends on. */
    chain: string;
    place?: { x: number; y: number; width: number; height: number } | null;
    /** A PNG whose alpha says how much is wrong where, base64, laid over the whole map. */
    marks?: string | null;
    /** The address of what is tried out on the map, in place of the map as it is kept. */
    preview?: string | null;
    /** Another picture of the same place, shown in place of the map and compared with it. */
    other?: Other | null;
  }>(),
  { place: null, marks: null, preview: null, other: null },
);

const canvas = ref<HTMLCanvasElement>();
const frame = ref<HTMLElement>();
const split = ref(0.5);
const line = ref("");
let renderer: Renderer | null = null;
let values: Values | null = null;
let observer: ResizeObserver | null = null;
let pending = 0;
let pointer: { x: number; y: number } | null = null;
let dragging: "pan" | "wipe" | null = null;

const ratio = () => window.devicePixelRatio || 1;
const beside = () => props.look.comparison === "beside";
const { size, problem, ready, load, tilesFor, stop } = usePictures(
  props,
  () => renderer,
  (resized) => (view.isFramed() || resized ? fit() : draw()),
);
const view = usePan(
  frame,
  () => [size.value[0] * props.look.repeat, size.value[1] * props.look.repeat],
  draw,
);
const { standing, zoom } = view;
const fit = () => view.fit(beside());

function draw(): void {
  pending ||= requestAnimationFrame(() => {
    pending = 0;
    const by = ratio();
    const { zoom: scale, left, top } = standing.value;
    const place = { zoom: scale * by, left: left * by, top: top * by };
    const { width, height } = canvas.value!;
    const { look } = props;
    const before = look.comparison === "before";
    renderer?.draw({
      ...place,
      // "Before" is a wipe that has gone all the way.
      split: before ? 1 : split.value,
      look: before ? { ...look, comparison: "wipe" } : look,
      // What is tried out has no levels of its own: the graphics card makes them.
      level: props.preview ? look.level : 0,
      tiles: tilesFor(place, [beside() ? width / 2 : width, height]),
    });
  });
}

/** The texel under the pointer, whichever tile or half of the window it is in. */
function underPointer(): { x: number; y: number } | null {
  if (!pointer) return null;
  const middle = (frame.value?.clientWidth ?? 0) / 2;
  const x = beside() && pointer.x >= middle ? pointer.x - middle : pointer.x;
  const [width, height] = size.value;
  const { repeat, half } = props.look;
  const where = texelAt(standing.value, x, pointer.y, width * repeat, height * repeat);
  if (!where) return null;
  const shift = half ? 0.5 : 0;
  return {
    x: (where.x + Math.floor(width * shift)) % width,
    y: (where.y + Math.floor(height * shift)) % height,
  };
}

function readOut(): void {
  if (props.preview) {
    line.value = "preview at screen resolution; exact values once it is applied";
    return;
  }
  const where = underPointer();
  if (!where || !values) {
    line.value = "";
    return;
  }
  const texel = values.texel(where.x, where.y);
  const which = props.look.level || props.other ? "of the map itself:   " : "";
  line.value = `${which}${where.x}, ${where.y}   ${texel ? describe(texel, props.map, props.colour) : "…"}`;
}

function newValues(): void {
  const address = `/api/projects/${props.slug}/maps/${props.map.id}/values?v=${props.map.digest.slice(0, 16)}`;
  values = new Values(address, readOut);
  readOut();
}

function onMove(event: PointerEvent): void {
  const box = canvas.value!.getBoundingClientRect();
  pointer = { x: event.clientX - box.left, y: event.clientY - box.top };
  if (dragging === "pan") view.pan(event.movementX, event.movementY);
  else if (dragging === "wipe") {
    split.value = Math.max(0, Math.min(1, pointer.x / box.width));
    draw();
  }
  readOut();
}

function onDown(event: PointerEvent): void {
  const box = canvas.value!.getBoundingClientRect();
  const near = Math.abs(event.clientX - box.left - split.value * box.width) < 10;
  dragging = props.look.comparison === "wipe" && near ? "wipe" : "pan";
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
    if (view.isFramed()) fit();
    else draw();
  });
  observer.observe(frame.value!);
  newValues();
  void load();
});
onBeforeUnmount(() => {
  stop();
  observer?.disconnect();
  cancelAnimationFrame(pending);
  renderer?.dispose();
});

watch(() => [props.map.digest, props.map.id], newValues);
watch(() => ({ ...props.look }), draw);
watch(() => [props.look.repeat, beside()], fit);

function onScreen(place: { x: number; y: number; width: number; height: number }) {
  const { zoom: scale, left, top } = standing.value;
  return {
    left: `${left + place.x * scale}px`,
    top: `${top + place.y * scale}px`,
    width: `${place.width * scale}px`,
    height: `${place.height * scale}px`,
  };
}
const mark = computed(() => (props.place && !props.look.half ? onScreen(props.place) : null));
const wrong = computed(() => {
  if (!props.marks || props.look.half) return null;
  const [width, height] = size.value;
  const mask = `url(data:image/png;base64,${props.marks})`;
  return { ...onScreen({ x: 0, y: 0, width, height }), maskImage: mask, maskSize: "100% 100%" };
});
const sides = computed(() => {
  if (props.other) return ["the map", props.other.label];
  return props.look.level ? ["plain averaging", "correct"] : ["before: source", "after: with steps"];
});
const aside = computed(() =>
  [...describeLook(props.look), `${Math.round(standing.value.zoom * 100)} %`].join("   "),
);
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
      <div v-if="wrong" class="wrong" data-test="marks" :style="wrong" />
      <div v-if="mark" class="mark" :style="mark" />
      <template v-if="look.comparison === 'wipe' || look.comparison === 'beside'">
        <span class="side before">{{ sides[0] }}</span><span class="side after">{{ sides[1] }}</span>
      </template>
      <span v-if="look.comparison === 'before'" class="side before">{{ sides[0] }}</span>
      <span v-if="look.comparison === 'difference'" class="side before">difference × {{ look.gain }}</span>
      <span v-if="preview" class="side tried" data-test="tried">not applied yet</span>
      <Histogram v-if="look.statistics" :slug="slug" :map="map" :behind="preview !== null" />
      <MipTable v-if="look.level && !preview" :slug="slug" :map="map" :chain="chain" :look="look" />
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    </div>
    <LookTools :look="look" :levels="levels" />
    <div class="line mono" data-test="values">
      <span>{{ line || `${size[0]} × ${size[1]}, ${map.bits} bits, ${map.channels.toUpperCase()}` }}</span>
      <span>{{ aside }}</span>
    </div>
  </div>
</template>

<style scoped>
.viewer {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto 24px;
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
.wrong {
  position: absolute;
  background: var(--accent);
  opacity: 0.75;
  pointer-events: none;
}
.side {
  position: absolute;
  bottom: 8px;
  padding: 1px 6px;
  background: var(--sheet);
  font-size: 12px;
}
.tried {
  bottom: auto;
  top: 8px;
  left: 8px;
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
