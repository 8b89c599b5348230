<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";

import type { TextureMap } from "@/api/types";
import OverPicture from "@/parts/OverPicture.vue";
import SideLabel from "@/parts/SideLabel.vue";
import { t } from "@/texts/viewer";

import ComparedLabels from "./ComparedLabels.vue";
import Histogram from "./Histogram.vue";
import LookTools from "./LookTools.vue";
import { describeLook, type Look } from "./look";
import MipTable from "./MipTable.vue";
import PinLayer from "./PinLayer.vue";
import { Renderer } from "./renderer";
import { usePan } from "./usePan";
import { type Other, usePictures } from "./usePictures";
import { usePointer } from "./usePointer";
import { useTexelLine } from "./useTexelLine";

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
    /** Places that comments are about, 0 to 1 from the upper left corner. */
    pins?: { id: number; x: number; y: number; label: string }[];
    /** Whether the next click marks a place. */
    marking?: boolean;
  }>(),
  { place: null, marks: null, preview: null, other: null, pins: () => [], marking: false },
);

const emit = defineEmits<{ mark: [x: number, y: number]; pin: [id: number] }>();

const canvas = ref<HTMLCanvasElement>();
const frame = ref<HTMLElement>();
const split = ref(0.5);
let renderer: Renderer | null = null;
let observer: ResizeObserver | null = null;
let pending = 0;

const ratio = () => window.devicePixelRatio || 1;
const beside = () => props.look.comparison === "beside";
const { size, problem, ready, load, tilesFor, stop } = usePictures(
  props,
  () => renderer,
  (resized) => (view.isFramed() || resized ? fit() : draw()),
);
function facts(): string {
  const [width, height] = size.value;
  return t("sizeAndFormat", {
    width,
    height,
    bits: props.map.bits,
    channels: props.map.channels.toUpperCase(),
  });
}
const view = usePan(
  frame,
  () => [size.value[0] * props.look.repeat, size.value[1] * props.look.repeat],
  draw,
);
const { standing, zoom } = view;
const fit = () => view.fit(beside());
const room = () => frame.value?.clientWidth ?? 0;
const { line, point } = useTexelLine(
  props,
  () => size.value,
  () => standing.value,
  room,
);

function draw(): void {
  pending ||= requestAnimationFrame(() => {
    pending = 0;
    const by = ratio();
    const { zoom: scale, left, top } = standing.value;
    const place = { zoom: scale * by, left: left * by, top: top * by };
    if (!canvas.value) return;
    const { width, height } = canvas.value;
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

const { onMove, onDown, onWheel, release } = usePointer(canvas, {
  compared: () => props.look.comparison === "wipe",
  marking: () => props.marking,
  standing: () => standing.value,
  size: () => size.value,
  split,
  pan: view.pan,
  zoom,
  draw,
  point,
  mark: (x, y) => emit("mark", x, y),
});

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
  void load();
});
onBeforeUnmount(() => {
  stop();
  observer?.disconnect();
  cancelAnimationFrame(pending);
  renderer?.dispose();
});

watch(() => ({ ...props.look }), draw);
watch([() => props.look.repeat, beside], fit);

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
        @pointerup="release"
        @pointerleave="point(null)"
        @wheel.prevent="onWheel"
        @dblclick="fit"
      />
      <div v-if="wrong" class="wrong" data-test="marks" :style="wrong" />
      <div v-if="mark" class="mark" :style="mark" />
      <PinLayer
        v-if="pins.length"
        :pins="pins"
        :standing="standing"
        :size="size"
        @pin="emit('pin', $event)"
      />
      <ComparedLabels :look="look" :other="other" />
      <SideLabel v-if="preview" data-test="tried">{{ t("notAppliedYet") }}</SideLabel>
      <Histogram v-if="look.statistics" :slug="slug" :map="map" :behind="preview !== null" />
      <MipTable v-if="look.level && !preview" :slug="slug" :map="map" :chain="chain" :look="look" />
      <OverPicture v-if="problem" role="alert">{{ problem }}</OverPicture>
    </div>
    <LookTools :look="look" :levels="levels" />
    <div class="line mono" data-test="values">
      <span>{{ line || facts() }}</span>
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
.mark,
.wrong {
  position: absolute;
  pointer-events: none;
}
.mark {
  border: 2px solid #fff;
  outline: 1px solid #000;
}
.wrong {
  background: var(--accent);
  opacity: 0.75;
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
