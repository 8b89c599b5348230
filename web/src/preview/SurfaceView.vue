<script setup lang="ts">
import { computed, reactive, ref, watch } from "vue";

import { useSymptoms } from "@/api/materials";
import { packedOf } from "@/api/pictures";
import { useOutputs } from "@/api/queries";
import type { Output } from "@/api/types";
import { useKeys } from "@/app/keys";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import OverPicture from "@/parts/OverPicture.vue";
import SideLabel from "@/parts/SideLabel.vue";
import { t } from "@/texts/preview";

import { labelOf } from "./choices";
import EdgeControls from "./EdgeControls.vue";
import { type Against, isDrawn, type Look, type Shape, type Slots } from "./readings";
import { turned, useOrbit } from "./useOrbit";
import { useScene } from "./useScene";

/** The set on a surface, from the pixels that a glTF 2.0 delivery would hold; drawn only when something changed. */
const props = defineProps<{
  slug: string;
  set: number;
  name: string;
  occlusion: boolean;
  rough: boolean;
  metal: boolean;
  /** Whether any step is applied to a map: then there is a before to look at. */
  stepped: boolean;
  /** What stands beside it at first. */
  against?: Against;
}>();
const SIDE = 1024;
const TARGET = "gltf";

const canvas = ref<HTMLCanvasElement>();
const frame = ref<HTMLElement>();
const outputs = useOutputs(
  () => props.slug,
  () => props.set,
  TARGET,
);
const look = reactive<Look>({
  shape: "sphere",
  against: props.against ?? "none",
  turn: 40,
  maps: { base_color: true, normal: true, roughness: true, metallic: true, occlusion: true, emissive: true },
});
const untouched = useOutputs(
  () => props.slug,
  () => props.set,
  TARGET,
  () => props.stepped && look.against === "before",
);
const symptoms = useSymptoms();
const misreadings = computed(() => (symptoms.data.value ?? []).filter((one) => isDrawn(one.key)));
const againsts = computed<{ value: Against; label: string }[]>(() => [
  { value: "none", label: t("nothing") },
  ...(props.stepped ? [{ value: "before" as const, label: t("beforeTheSteps") }] : []),
  ...misreadings.value.map((one) => ({ value: one.key as Against, label: one.cause })),
]);
const misreading = computed(() => misreadings.value.find((one) => one.key === look.against) ?? null);
const sides = computed(() =>
  misreading.value ? [t("readCorrectly"), "misread"] : [t("beforeTheSteps2"), t("withItsSteps")],
);
const toggles = computed(() =>
  (
    [
      ["base_color", t("baseColour"), slots.value.base_color],
      ["normal", t("normal"), slots.value.normal],
      ["roughness", t("roughness"), props.rough && slots.value.pack],
      ["metallic", t("metallic"), props.metal && slots.value.pack],
      ["occlusion", t("occlusion"), props.occlusion && slots.value.pack],
      ["emissive", t("emissive"), slots.value.emissive],
    ] as const
  ).filter(([, , there]) => there),
);

const slots = computed(() => slotsOf(outputs.data.value ?? [], false));
const before = computed(() =>
  look.against === "before" && untouched.data.value ? slotsOf(untouched.data.value, true) : null,
);
/** What it was before its steps is asked for, and not there yet. */
const awaited = computed(() => look.against === "before" && before.value === null);
function slotsOf(made: Output[], before: boolean): Slots {
  const slots: Slots = {};
  const names: Record<string, "base_color" | "normal" | "pack" | "emissive"> = {
    baseColor: "base_color",
    normal: "normal",
    occlusionRoughnessMetallic: "pack",
    emissive: "emissive",
  };
  for (const output of made) {
    const slot = names[output.output];
    if (!slot) continue;
    slots[slot] = packedOf(props.slug, props.set, TARGET, output, SIDE, "", before);
    if (slot === "base_color") slots.alpha = output.channels.some((channel) => channel.letter === "a");
  }
  return slots;
}

const { scene, state, problem, drawn, draw, attempt } = useScene(
  canvas,
  frame,
  async () => (await import("./scene")).SurfaceScene,
  () => load(),
  (staged) => staged.draw(look),
);

async function load(): Promise<void> {
  const staged = scene.value;
  if (!staged || !outputs.data.value) return;
  state.value = "loading";
  await attempt(() => staged.show(slots.value, before.value), t("thePicturesOfThisSetCannot"));
}

watch(() => JSON.stringify([slots.value, before.value]), load);
watch(look, draw);
// What the set was before its steps may be nothing that can be shown; what it is still can.
watch(
  () => look.against,
  () => {
    if (state.value === "failed" && !outputs.error.value) void load();
  },
);
watch(
  () => props.stepped,
  (stepped) => {
    if (!stepped && look.against === "before") look.against = "none";
  },
);
watch(
  () => outputs.error.value ?? untouched.error.value,
  (error) => {
    if (!error) return;
    problem.value = error.message;
    state.value = "failed";
  },
);

const { onDown, onMove, onUp, onWheel } = useOrbit(
  canvas,
  () => scene.value,
  (degrees) => (look.turn = turned(look.turn, degrees)),
  draw,
);

const order: Shape[] = ["sphere", "cube", "plane"];
useKeys(t("surface"), [
  {
    key: "T",
    does: t("nextShape"),
    run: () => (look.shape = order[(order.indexOf(look.shape) + 1) % order.length]!),
  },
  { key: "L", does: t("rotateTheLightBy30Degrees"), run: () => (look.turn = (look.turn + 30) % 360) },
  {
    key: "E",
    does: t("compareWithTheNext"),
    run: () => {
      const all = againsts.value.map((one) => one.value);
      look.against = all[(all.indexOf(look.against) + 1) % all.length]!;
    },
  },
]);
</script>

<template>
  <div class="surface">
    <EdgeControls v-model:shape="look.shape" v-model:turn="look.turn" :shapes="order" />
    <div ref="frame" class="frame" :data-ready="state === 'ready' && drawn > 0 && !awaited">
      <canvas
        ref="canvas"
        :aria-label="t('surfaceShown', { name, shape: labelOf(look.shape) })"
        @pointermove="onMove"
        @pointerdown="onDown"
        @pointerup="onUp"
        @wheel.prevent="onWheel"
        @contextmenu.prevent
      />
      <template v-if="look.against !== 'none' && !awaited">
        <SideLabel>{{ sides[0] }}</SideLabel>
        <SideLabel side="middle">{{ sides[1] }}</SideLabel>
        <p v-if="misreading" class="symptom">{{ misreading.symptom }}. {{ misreading.remedy }}.</p>
      </template>
      <OverPicture v-if="state === 'loading' || (awaited && state === 'ready')">{{
        t("drawingTheSurface")
      }}</OverPicture>
      <OverPicture v-if="state === 'failed'" role="alert">{{ problem }}</OverPicture>
    </div>
    <div class="row controls">
      <CheckField v-for="[key, label] in toggles" :key="key" v-model="look.maps[key]" :label="label" />
      <span class="grow" />
      <span class="row"
        ><span class="soft">{{ t("compareWith") }}</span>
        <ChoiceField v-model="look.against" :options="againsts" :label="t('compareWith')" />
      </span>
    </div>
  </div>
</template>

<style scoped>
.surface {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  height: 100%;
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
  cursor: grab;
}
.symptom {
  position: absolute;
  right: 8px;
  bottom: 0;
  width: calc(50% - 24px);
  padding: 3px 6px;
  background: var(--sheet);
}
.controls {
  padding: 3px var(--space-2);
  background: var(--sheet);
  border-top: 1px solid var(--line);
}
</style>
