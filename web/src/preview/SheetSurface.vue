<script setup lang="ts">
import { onBeforeUnmount, onMounted, reactive, ref, watch } from "vue";

import type { Sheet } from "@/api/materials";
import { useKeys } from "@/app/keys";

import type { Painted, SheetLook, SheetScene, SlotSource } from "./sheetScene";
import { SHOWN } from "./sheetShader";

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
const look = reactive<SheetLook>({
  shape: "sphere",
  turn: 40,
  exposure: 0,
  toneMapped: true,
  shown: "lit",
  wire: false,
  vertex: "none",
});
const shapes: SheetLook["shape"][] = ["sphere", "cube", "plane", "cloth"];
const words: Record<string, string> = {
  lit: "Lit",
  base_color: "Base colour",
  metallic: "Metallic",
  roughness: "Roughness",
  normal: "Normal",
  occlusion: "Occlusion",
  emissive: "Emissive",
  opacity: "Opacity",
  height: "Height",
};
const paints: Painted[] = [
  "none",
  "red",
  "green",
  "blue",
  "no alpha",
  "red in patches",
  "red from the left",
  "green from below",
];

let scene: SheetScene | null = null;
let observer: ResizeObserver | null = null;
let pending = 0;
let dragging: "orbit" | "light" | null = null;
let worn = "";

function draw(): void {
  pending ||= requestAnimationFrame(() => {
    pending = 0;
    if (!scene || state.value !== "ready") return;
    scene.draw(look);
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
      scene.wear(shader, { mode: props.sheet.opacity_mode, cutOff: props.sheet.cut_off });
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
watch(look, draw);

function onMove(event: PointerEvent): void {
  if (!dragging) return;
  if (dragging === "light") look.turn = (((look.turn + event.movementX) % 360) + 360) % 360;
  else {
    scene?.orbitBy(event.movementX, event.movementY);
    draw();
  }
}
function onDown(event: PointerEvent): void {
  dragging = event.shiftKey || event.button === 2 ? "light" : "orbit";
  canvas.value!.setPointerCapture(event.pointerId);
}
function onWheel(event: WheelEvent): void {
  scene?.zoomBy(2 ** (event.deltaY / 600));
  draw();
}
function still(): void {
  if (!scene || state.value !== "ready") return;
  const link = document.createElement("a");
  link.href = scene.still({ ...look }, 1024, 1024);
  link.download = `${props.name}.png`;
  link.click();
}
const next = <T,>(all: readonly T[], now: T): T => all[(all.indexOf(now) + 1) % all.length]!;
useKeys("On a surface", [
  { key: "T", does: "Next shape", run: () => (look.shape = next(shapes, look.shape)) },
  { key: "L", does: "Turn the light by 30 degrees", run: () => (look.turn = (look.turn + 30) % 360) },
  { key: "V", does: "Next value by itself", run: () => (look.shown = next(SHOWN, look.shown)) },
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
        @pointerup="dragging = null"
        @wheel.prevent="onWheel"
        @contextmenu.prevent
      />
      <p v-if="state === 'loading'" class="state">Loading the surface …</p>
      <p v-if="state === 'failed'" class="state" role="alert">{{ problem }}</p>
      <p v-if="!sheet.shader" class="state">The sheet has a row that does not fit; the surface waits.</p>
    </div>
    <div class="controls">
      <label
        >Shape
        <select v-model="look.shape">
          <option v-for="one in shapes" :key="one" :value="one">{{ one }}</option>
        </select></label
      >
      <label
        >Show
        <select v-model="look.shown">
          <option v-for="one in SHOWN" :key="one" :value="one">{{ words[one] }}</option>
        </select></label
      >
      <label>Light <input v-model.number="look.turn" type="range" min="0" max="359" /></label>
      <label
        >Exposure <input v-model.number="look.exposure" type="range" min="-3" max="3" step="0.1"
      /></label>
      <label><input v-model="look.toneMapped" type="checkbox" /> tone mapping</label>
      <label><input v-model="look.wire" type="checkbox" /> wires</label>
      <label
        >Vertex colour
        <select v-model="look.vertex">
          <option v-for="one in paints" :key="one" :value="one">{{ one }}</option>
        </select></label
      >
      <button class="plain link" @click="still">Save a still</button>
    </div>
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
.state {
  position: absolute;
  inset: 45% 0 auto;
  text-align: center;
  color: var(--on-surround);
}
.controls {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  padding: 6px 8px;
  background: var(--sheet);
  border-top: 1px solid var(--line);
  font-size: 12px;
}
.controls label {
  display: flex;
  gap: 4px;
  align-items: center;
}
.controls input[type="range"] {
  width: 72px;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
}
.link {
  color: var(--accent);
}
</style>
