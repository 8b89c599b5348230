<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from "vue";

import { type Sheet, useSymptoms } from "@/api/materials";
import { useKeys } from "@/app/keys";

import type { SheetLook, SheetScene, SlotSource } from "./sheetScene";
import { SHOWN } from "./sheetShader";
import SurfaceControls from "./SurfaceControls.vue";
import SymptomGuide from "./SymptomGuide.vue";
import { turned, useHand } from "./useHand";

/** A sheet on a surface, under a light to turn. Values follow the hand; only another sheet compiles. */
const props = defineProps<{
  name: string;
  sheet: Sheet;
  values: Record<string, number[]>;
  slots: Record<string, SlotSource>;
}>();
const canvas = ref<HTMLCanvasElement | null>(null);
const frame = ref<HTMLElement | null>(null);
const state = ref<"loading" | "ready" | "failed">("loading");
const problem = ref("");
const drawn = ref(0);
const look = ref<SheetLook>({
  shape: "sphere",
  turn: 40,
  exposure: 0,
  toneMapped: true,
  shown: "lit",
  wire: false,
  vertex: "none",
  misread: "",
});
const shapes: SheetLook["shape"][] = ["sphere", "cube", "plane", "cloth"];
const symptoms = useSymptoms();
const symptom = computed(() => symptoms.data.value?.find((one) => one.key === look.value.misread) ?? null);
/** Small pictures of this very surface, misread in every way: to be recognised. */
const guide = ref<{ key: string; symptom: string; picture: string }[]>([]);
let scene: SheetScene | null = null;
let observer: ResizeObserver | null = null;
let pending = 0;
let worn = "";

function draw(): void {
  pending ||= requestAnimationFrame(() => {
    pending = 0;
    if (!scene || state.value !== "ready") return;
    scene.draw(look.value);
    drawn.value += 1;
  });
}

/** Put the sheet on, where it is another one, and its maps. */
async function dress(): Promise<void> {
  const { shader } = props.sheet;
  if (!scene || !shader) return;
  try {
    const sheet = shader.code + props.sheet.opacity_mode + props.sheet.cut_off;
    if (worn !== sheet) {
      scene.wear(shader, props.sheet.slots, { mode: props.sheet.opacity_mode, cutOff: props.sheet.cut_off });
      worn = sheet;
    }
    scene.set(props.values);
    await scene.fill(props.slots);
    state.value = "ready";
    draw();
  } catch (error) {
    problem.value = (error as Error).message || "The maps of this material cannot be loaded.";
    state.value = "failed";
  }
}

onMounted(async () => {
  const { SheetScene: Scene } = await import("./sheetScene");
  if (!canvas.value || !frame.value) return;
  try {
    scene = new Scene(canvas.value);
  } catch {
    problem.value = "This browser shows no WebGL, which the surface needs.";
    state.value = "failed";
    return;
  }
  observer = new ResizeObserver(() => {
    scene?.resize(frame.value!.clientWidth, frame.value!.clientHeight);
    draw();
  });
  observer.observe(frame.value);
  scene.resize(frame.value.clientWidth, frame.value.clientHeight);
  await dress();
});
onBeforeUnmount(() => {
  cancelAnimationFrame(pending);
  observer?.disconnect();
  scene?.dispose();
});
watch(
  () => [
    props.sheet.shader?.code,
    props.sheet.opacity_mode,
    props.sheet.cut_off,
    JSON.stringify(props.slots),
  ],
  dress,
);
watch(
  () => props.values,
  (values) => {
    scene?.set(values);
    draw();
  },
  { deep: true },
);
watch(look, draw, { deep: true });

const { onDown, onMove, onUp, onWheel } = useHand(
  canvas,
  () => scene,
  (degrees) => (look.value.turn = turned(look.value.turn, degrees)),
  draw,
);
function still(): void {
  if (!scene || state.value !== "ready") return;
  const link = document.createElement("a");
  link.href = scene.still({ ...look.value }, 1024, 1024);
  link.download = `${props.name}.png`;
  link.click();
}
function recognise(): void {
  if (guide.value.length || !scene || state.value !== "ready") {
    guide.value = [];
    return;
  }
  guide.value = (symptoms.data.value ?? []).map((one) => ({
    key: one.key,
    symptom: one.symptom,
    picture: scene!.still({ ...look.value, misread: one.key }, 220, 110),
  }));
  draw();
}
function pick(key: string): void {
  look.value.misread = key;
  guide.value = [];
}
const next = <T,>(all: readonly T[], now: T): T => all[(all.indexOf(now) + 1) % all.length]!;
useKeys("On a surface", [
  { key: "T", does: "Next shape", run: () => (look.value.shape = next(shapes, look.value.shape)) },
  {
    key: "L",
    does: "Turn the light by 30 degrees",
    run: () => (look.value.turn = (look.value.turn + 30) % 360),
  },
  { key: "V", does: "Next value by itself", run: () => (look.value.shown = next(SHOWN, look.value.shown)) },
]);
</script>

<template>
  <div class="surface">
    <div ref="frame" class="frame" :data-ready="state === 'ready' && drawn > 0" :data-drawn="drawn">
      <canvas
        ref="canvas"
        :aria-label="`${name} on a ${look.shape}`"
        @pointermove="onMove"
        @pointerdown="onDown"
        @pointerup="onUp"
        @wheel.prevent="onWheel"
        @contextmenu.prevent
      />
      <template v-if="symptom">
        <span class="side right-reading">read rightly</span>
        <span class="side wrong">misread</span>
        <p class="symptom" data-test="symptom">
          <b>{{ symptom.symptom }}.</b> {{ symptom.cause }}. {{ symptom.remedy }}.
        </p>
      </template>
      <SymptomGuide v-if="guide.length" :pictures="guide" @pick="pick" />
      <p v-if="state === 'loading'" class="state">Loading the surface …</p>
      <p v-if="state === 'failed'" class="state" role="alert">{{ problem }}</p>
      <p v-if="!sheet.shader" class="state">The sheet has a row that does not fit; the surface waits.</p>
    </div>
    <SurfaceControls
      v-model="look"
      :symptoms="symptoms.data.value ?? []"
      @recognise="recognise"
      @still="still"
    />
  </div>
</template>

<style scoped>
.surface {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
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
.side {
  position: absolute;
  top: 8px;
  padding: 1px 6px;
  background: var(--sheet);
  font-size: 12px;
}
.right-reading {
  left: 8px;
}
.wrong {
  left: calc(50% + 8px);
}
.symptom {
  position: absolute;
  left: 8px;
  right: 8px;
  bottom: 8px;
  margin: 0;
  padding: 4px 8px;
  background: var(--sheet);
  font-size: 12px;
}
.state {
  position: absolute;
  inset: 45% 0 auto;
  text-align: center;
  color: var(--on-surround);
}
</style>
