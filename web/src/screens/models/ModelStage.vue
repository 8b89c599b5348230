<script setup lang="ts">
import { computed, ref, watch } from "vue";

import { fetchMesh, type Model, type Painted, uvsOf, type VertexStroke } from "@/api/models";
import { useKeys } from "@/app/keys";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import SliderField from "@/parts/fields/SliderField.vue";
import OverPicture from "@/parts/OverPicture.vue";
import { detail } from "@/preview/detail";
import { turned, useOrbit } from "@/preview/useOrbit";
import { useScene } from "@/preview/useScene";
import { t } from "@/texts/models";

import { useStagePointer } from "./useStagePointer";
import { type Painting, useVertexPainting } from "./useVertexPainting";
import type { Mode } from "./modelScene";
import { materialOf, nameOf, valueOf } from "./wearing";

/** The mesh: in what its slots wear, by density, plain, or one slot's UVs. A click picks the slot. */
const props = defineProps<{ slug: string; model: Model; painting: Painting | null }>();
const emit = defineEmits<{ stroke: [stroke: VertexStroke, done: (kept: Painted | null) => void] }>();
const slot = defineModel<number>("slot", { required: true });
const hidden = defineModel<string[]>("hidden", { required: true });
const canvas = ref<HTMLCanvasElement | null>(null);
const frame = ref<HTMLElement | null>(null);
const mode = ref<Mode | "uvs">("worn");
const turn = ref(30);
const modes = [
  { value: "worn" as const, label: t("asWorn") },
  { value: "density" as const, label: t("texelDensity") },
  { value: "colours" as const, label: t("vertexColours") },
  { value: "plain" as const, label: t("plainMesh") },
  { value: "uvs" as const, label: t("uvsOfTheSlot") },
];
const chosen = computed(() => props.model.slots_out.find((one) => one.index === slot.value) ?? null);
const look = computed(() => ({
  mode: mode.value === "uvs" ? ("worn" as const) : mode.value,
  hidden: hidden.value,
  slot: slot.value,
  turn: turn.value,
  alpha: props.painting?.brush.channel === "alpha",
}));
const { scene, state, problem, drawn, draw, attempt } = useScene(
  canvas,
  frame,
  async () => (await import("./modelScene")).ModelScene,
  () => load(),
  (staged) => staged.draw(look.value),
);
const wornNow = computed(() =>
  props.model.slots_out.map((one) => ({ index: one.index, worn: one.worn?.name === null ? null : one.worn })),
);
let applied: Record<number, string> = {};

async function load(): Promise<void> {
  await attempt(async () => {
    await scene.value!.load(await fetchMesh(props.slug, props.model.id));
  }, t("cannotBeDrawn"));
  applied = {};
  await dress();
}
/** Put on what slots wear, where that has changed; each appears when its maps are there. */
async function dress(): Promise<void> {
  const staged = scene.value;
  if (!staged || state.value !== "ready") return;
  for (const one of props.model.slots_out) {
    const texels = one.density !== null && one.density_of_one ? one.density / one.density_of_one : 0;
    staged.weigh(one.index, { texels, wanted: props.model.wanted_density ?? one.density ?? 0 });
  }
  await Promise.all(
    wornNow.value.map(async ({ index, worn }) => {
      const value = valueOf(worn);
      if (applied[index] === value) return;
      applied[index] = value;
      try {
        await staged.wear(index, worn ? await materialOf(props.slug, worn) : null);
      } catch {
        // Without its maps it is drawn as one that wears nothing; the slot's own line says what is wrong.
        await staged.wear(index, null);
      }
      draw();
    }),
  );
  draw();
}
// Another file, scale or split is another mesh, and so are UVs that lie in another region.
watch(() => props.model.shape, load);
watch(
  () => JSON.stringify([wornNow.value, props.model.wanted_density]),
  () => void dress(),
);
watch(look, draw, { deep: true });
watch(detail, () => {
  scene.value?.resize(frame.value!.clientWidth, frame.value!.clientHeight);
  draw();
});

const orbit = useOrbit(
  canvas,
  () => scene.value,
  (degrees) => (turn.value = turned(turn.value, degrees)),
  draw,
);
const brush = useVertexPainting(scene, () => props.model, () => props.painting, draw, () => void load()); // prettier-ignore
watch(
  () => props.painting !== null,
  (painting) => painting && (mode.value = "colours"),
);
const pointer = useStagePointer(
  canvas,
  scene,
  orbit,
  brush,
  () => props.painting !== null,
  (picked) => (slot.value = picked),
  (stroke) => new Promise((done) => emit("stroke", stroke, done)),
);
const next = () =>
  (mode.value = modes[(modes.findIndex((one) => one.value === mode.value) + 1) % modes.length]!.value);
useKeys(t("models"), [
  { key: "V", does: t("nextWayOfLooking"), run: next },
  { key: "H", does: t("showAllParts"), run: () => (hidden.value = []) },
  { key: "L", does: t("turnTheLight"), run: () => (turn.value = (turn.value + 30) % 360) },
]);
</script>

<template>
  <div class="stage">
    <div class="row bar">
      <ChoiceField v-model="mode" :options="modes" :label="t('wayOfLooking')" />
      <span class="light"
        >{{ t("light") }}
        <SliderField
          :value="turn"
          :low="0"
          :high="359"
          :step="1"
          :label="t('light')"
          @move="turn = $event"
          @keep="turn = $event"
      /></span>
      <span v-if="mode === 'density'" class="row small soft" data-test="scale">
        <span class="swatch low" />{{ t("tooFew") }} <span class="swatch right" />{{
          model.wanted_density ? t("asWanted", { density: model.wanted_density }) : t("noWish")
        }}
        <span class="swatch high" />{{ t("tooMany") }}
      </span>
      <span class="grow" />
      <span v-if="chosen" class="small">{{ nameOf(chosen) }}</span>
    </div>
    <div ref="frame" class="frame" :data-ready="state === 'ready' && drawn > 0" :data-drawn="drawn">
      <canvas
        ref="canvas"
        :aria-label="t('modelShown', { name: model.name })"
        @pointermove="pointer.move"
        @pointerleave="pointer.leave"
        @pointerdown="pointer.down"
        @pointerup="pointer.up"
        @wheel.prevent="orbit.onWheel"
        @contextmenu.prevent
      />
      <div v-if="mode === 'uvs'" class="uvs">
        <img
          v-if="chosen?.uv_sets"
          :src="uvsOf(slug, model, chosen.index)"
          :alt="t('uvsOf', { name: nameOf(chosen) })"
        />
        <OverPicture v-else>{{ chosen ? t("noUvs") : t("chooseASlot") }}</OverPicture>
      </div>
      <OverPicture v-if="state === 'loading'">{{ t("drawing") }}</OverPicture>
      <OverPicture v-if="state === 'failed'" role="alert">{{ problem }}</OverPicture>
    </div>
  </div>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
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
.uvs {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  background: var(--surround);
}
.uvs img {
  width: min(92%, 34rem);
  max-height: 96%;
  object-fit: contain;
}
.swatch {
  width: 14px;
  height: 14px;
  border: 1px solid var(--line-strong);
}
.low {
  background: rgb(20 89 217);
}
.right {
  background: rgb(158 158 158);
}
.high {
  background: rgb(242 115 13);
}
</style>
