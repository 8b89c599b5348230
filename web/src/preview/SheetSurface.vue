<script setup lang="ts">
import { computed, ref, shallowRef, watch } from "vue";

import type { Sheet } from "@/api/materials";
import { useKeys } from "@/app/keys";
import OverPicture from "@/parts/OverPicture.vue";
import SideLabel from "@/parts/SideLabel.vue";
import { t } from "@/texts/preview";

import EdgeControls from "./EdgeControls.vue";
import MeshSlots from "./MeshSlots.vue";
import type { SlotSource, PreviewMaterial } from "./sheetScene";
import { SHOWN } from "./sheetShader";
import { ENVIRONMENTS, SHAPES } from "./stage";
import { labelOf } from "./choices";
import SurfaceControls from "./SurfaceControls.vue";
import SymptomGuide from "./SymptomGuide.vue";
import { detail } from "./detail";
import { plainLook } from "./look";
import { turned, useOrbit } from "./useOrbit";
import { useOwnMesh } from "./useOwnMesh";
import { useScene } from "./useScene";
import { useSymptomGuide } from "./useSymptomGuide";
import { savePicture } from "./savePicture";
import { useMotion } from "./useMotion";

/** A sheet on a surface, under a light to turn. Values follow the hand; only another sheet compiles.
 *
 * second: what stands beside it. choices: casts that may stand beside it or on a slot of an own mesh, told by materialOf.
 * plainOf: what a slot reads without its map.
 */
const props = defineProps<{
  name: string;
  sheet: Sheet;
  values: Record<string, number[]>;
  slots: Record<string, SlotSource>;
  second?: PreviewMaterial | null;
  choices?: { id: number; name: string }[];
  materialOf?: (cast: number) => Promise<PreviewMaterial>;
  plainOf: (slot: Sheet["slots"][number]) => SlotSource;
}>();
const canvas = ref<HTMLCanvasElement | null>(null);
const frame = ref<HTMLElement | null>(null);
const look = ref(plainLook());
/** Slots whose maps are switched off, to see what each does. */
const off = ref<string[]>([]);
const beside = ref(0);
const other = shallowRef<PreviewMaterial | null>(null);
const second = computed(() => props.second ?? other.value);
const slots = computed(() =>
  Object.fromEntries(
    props.sheet.slots.map((one) => [
      one.name,
      off.value.includes(one.name) ? props.plainOf(one) : (props.slots[one.name] ?? props.plainOf(one)),
    ]),
  ),
);

const { scene, state, problem, drawn, draw, attempt } = useScene(
  canvas,
  frame,
  async () => (await import("./sheetScene")).SheetScene,
  () => applyMaterial(),
  (staged) => staged.draw(look.value),
);

/** Put the sheet on, where it is another one, and its maps. */
async function applyMaterial(): Promise<void> {
  if (!scene.value || !props.sheet.shader) return;
  const staged = scene.value;
  await attempt(async () => {
    await staged
      .material()
      .apply({ name: props.name, sheet: props.sheet, values: props.values, slots: slots.value });
    if (second.value) await staged.material("second").apply(second.value);
    else staged.single();
  }, t("theMapsOfThisMaterialCannot"));
}
watch(
  [
    () => [props.sheet.shader?.code, props.sheet.opacity_mode, props.sheet.cut_off].join(),
    () => JSON.stringify(slots.value),
    second,
  ],
  applyMaterial,
);
watch(
  () => props.values,
  (values) => {
    scene.value?.material().set(values);
    draw();
  },
  { deep: true },
);
watch(look, draw, { deep: true });
watch(detail, () => {
  scene.value?.resize(frame.value!.clientWidth, frame.value!.clientHeight);
  draw();
});

const { turning, running } = useMotion(scene, draw);
const { symptoms, symptom, guide, recognise, pick } = useSymptomGuide(
  scene,
  look,
  () => state.value === "ready",
  draw,
);

async function compare(cast: number): Promise<void> {
  beside.value = cast;
  other.value = cast && props.materialOf ? await props.materialOf(cast) : null;
}
const { own, assigned, told, take, assign } = useOwnMesh(scene, (cast) => props.materialOf?.(cast), draw);
watch(own, (mesh) => {
  if (mesh?.hasColours) look.value.vertex = "own";
});

const { onDown, onMove, onUp, onWheel } = useOrbit(
  canvas,
  () => scene.value,
  (degrees) => (look.value.turn = turned(look.value.turn, degrees)),
  draw,
);
function still(side: number): void {
  if (!scene.value || state.value !== "ready") return;
  savePicture(scene.value.still({ ...look.value }, side, side), `${props.name}.png`);
  draw();
}
const next = <T,>(all: readonly T[], now: T): T => all[(all.indexOf(now) + 1) % all.length]!;
useKeys(t("surface"), [
  { key: "T", does: t("nextShape"), run: () => (look.value.shape = next(SHAPES, look.value.shape)) },
  {
    key: "L",
    does: t("rotateTheLightBy30Degrees"),
    run: () => (look.value.turn = (look.value.turn + 30) % 360),
  },
  {
    key: "V",
    does: t("showTheNextValueAlone"),
    run: () => (look.value.shown = next(SHOWN, look.value.shown)),
  },
  {
    key: "E",
    does: t("nextEnvironment"),
    run: () => (look.value.environment = next(ENVIRONMENTS, look.value.environment)),
  },
  { key: "G", does: t("turntableOnOrOff"), run: () => (turning.value = !turning.value) },
  {
    key: "Shift+T",
    does: t("timeOnOrOff"),
    run: () => (running.value = props.sheet.moves && !running.value),
  },
]);
</script>

<template>
  <div class="surface">
    <EdgeControls
      v-model:shape="look.shape"
      v-model:environment="look.environment"
      v-model:turn="look.turn"
      :shapes="SHAPES"
      :environments="ENVIRONMENTS"
    />
    <div ref="frame" class="frame" :data-ready="state === 'ready' && drawn > 0" :data-drawn="drawn">
      <canvas
        ref="canvas"
        :aria-label="t('surfaceShown', { name, shape: own ? own.name : labelOf(look.shape) })"
        @pointermove="onMove"
        @pointerdown="onDown"
        @pointerup="onUp"
        @wheel.prevent="onWheel"
        @contextmenu.prevent
      />
      <MeshSlots
        v-if="own"
        :mesh="own"
        :assigned="assigned"
        :choices="choices ?? []"
        @assign="assign"
        @away="take(null)"
      />
      <template v-if="symptom || second">
        <SideLabel>{{ symptom && !second ? t("readCorrectly") : name }}</SideLabel>
        <SideLabel :side="look.parted === 'wipe' ? 'right' : 'middle'"
          >{{ second?.name }} {{ symptom ? t("misread") : "" }}</SideLabel
        >
      </template>
      <p v-if="symptom" class="symptom" data-test="symptom">
        <b>{{ symptom.symptom }}.</b> {{ symptom.cause }}. {{ symptom.remedy }}.
      </p>
      <SymptomGuide v-if="guide.length" :pictures="guide" @pick="pick" />
      <OverPicture v-if="state === 'loading'">{{ t("drawingTheSurface") }}</OverPicture>
      <OverPicture v-if="state === 'failed'" role="alert">{{ problem }}</OverPicture>
      <OverPicture v-if="told" role="alert">{{ told }}</OverPicture>
      <OverPicture v-if="!sheet.shader">
        {{ t("aRowOfTheSheetHas") }}
      </OverPicture>
    </div>
    <SurfaceControls
      v-model="look"
      v-model:turning="turning"
      v-model:running="running"
      v-model:off="off"
      :moves="sheet.moves"
      :slots="sheet.slots"
      :symptoms="symptoms"
      :choices="choices ?? []"
      :beside="beside"
      :paired="Boolean(second || symptom)"
      :lifts="sheet.rows.some((row) => row.is_input && row.name === 'height')"
      :own-colours="own?.hasColours ?? false"
      @compare="compare"
      @mesh="take"
      @recognise="recognise"
      @still="still"
    />
  </div>
</template>

<style scoped>
.surface {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
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
.symptom {
  position: absolute;
  left: 8px;
  right: 8px;
  bottom: 8px;
  margin: 0;
  padding: 4px 8px;
  background: var(--sheet);
}
</style>
