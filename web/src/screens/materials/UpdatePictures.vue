<script setup lang="ts">
import Message from "primevue/message";
import Skeleton from "primevue/skeleton";
import { onBeforeUnmount, onMounted, ref, shallowReactive, watch } from "vue";

import type { Impact } from "@/api/materials";
import { plainLook } from "@/preview/look";
import type { SheetLook, SheetScene, PreviewMaterial } from "@/preview/sheetScene";
import { t } from "@/texts/materials";

import { fetchCast, sheetOfVersion, materialOfCast, materialAfterUpdate } from "./previewMaterials";

/** Casts before and after an update: the same light, the same maps, and by how much the pictures differ. */
const props = defineProps<{
  slug: string;
  master: string;
  number: string;
  casts: Impact["casts"];
}>();
interface Pair {
  material: [PreviewMaterial, PreviewMaterial];
  cast: number;
  name: string;
  before: string;
  after: string;
  /** Of all pixels of the surface: mean and largest difference of a channel, 0 to 1. */
  mean: number;
  largest: number;
}
const SIDE = 220;
const MAPS = 256;
const MAX_CASTS = 12;
const LOOK: SheetLook = { ...plainLook(), vertex: "red_patches" };
const pairs = shallowReactive<Pair[]>([]);
const emit = defineEmits<{ look: [before: PreviewMaterial, after: PreviewMaterial] }>();
const state = ref<"working" | "done">("working");
const problem = ref("");
let scene: SheetScene | null = null;
let round = 0;

async function make(): Promise<void> {
  const now = ++round;
  pairs.length = 0;
  problem.value = "";
  state.value = "working";
  try {
    const sheet = await sheetOfVersion(props.master, props.number);
    for (const one of props.casts.slice(0, MAX_CASTS)) {
      const cast = await fetchCast(props.slug, one.cast);
      if (now !== round || !scene) return;
      const material: Pair["material"] = [
        { ...materialOfCast(props.slug, cast, MAPS), name: t("beforeTheUpdate", { name: one.name }) },
        {
          ...materialAfterUpdate(props.slug, one, sheet, MAPS),
          name: t("afterTheUpdate", { name: one.name }),
        },
      ];
      const [before, first] = await taken(material[0]);
      const [after, last] = await taken(material[1]);
      if (now !== round) return;
      pairs.push({ cast: one.cast, name: one.name, material, before, after, ...difference(first, last) });
    }
  } catch (error) {
    problem.value = (error as Error).message;
  }
  state.value = "done";
}
async function taken(material: PreviewMaterial): Promise<[string, Uint8ClampedArray]> {
  await scene!.material().apply(material);
  return [scene!.still(LOOK, SIDE, SIDE), scene!.pixels(LOOK, SIDE, SIDE)];
}
function difference(a: Uint8ClampedArray, b: Uint8ClampedArray): { mean: number; largest: number } {
  let sum = 0;
  let largest = 0;
  let count = 0;
  for (let at = 0; at < a.length; at += 4) {
    if (!a[at + 3] && !b[at + 3]) continue;
    for (let channel = 0; channel < 3; channel++) {
      const apart = Math.abs(a[at + channel]! - b[at + channel]!);
      sum += apart;
      largest = Math.max(largest, apart);
      count += 1;
    }
  }
  return { mean: count ? sum / count / 255 : 0, largest: largest / 255 };
}
onMounted(async () => {
  const { SheetScene: Scene } = await import("@/preview/sheetScene");
  try {
    scene = new Scene(document.createElement("canvas"));
  } catch {
    problem.value = t("thisBrowserHasNoWebglWhich");
    state.value = "done";
    return;
  }
  await make();
});
onBeforeUnmount(() => {
  round += 1;
  scene?.dispose();
});
watch([() => props.master, () => props.number, () => JSON.stringify(props.casts)], make);
const percent = (value: number) => `${(value * 100).toFixed(value < 0.1 ? 1 : 0)} %`;
const pairOf = (cast: number) => pairs.find((one) => one.cast === cast);
const differenceIn = (pair: Pair) =>
  pair.largest === 0
    ? t("looksTheSame")
    : t("differsByAtMost", { percent: percent(pair.mean), percent2: percent(pair.largest) });
</script>

<template>
  <div class="pictures" :data-ready="state === 'done'">
    <Message v-if="problem" severity="error" :closable="false" role="alert">{{ problem }}</Message>
    <article v-for="one in casts" :key="one.cast" :data-cast="one.name">
      <!-- eslint-disable-next-line vue/no-restricted-html-elements -- a picture that is pressed, with no look of a button -->
      <button
        v-if="pairOf(one.cast)"
        :aria-label="t('showLargeBeforeAndAfter', { name: one.name })"
        @click="emit('look', ...pairOf(one.cast)!.material)"
      >
        <img
          :src="pairOf(one.cast)!.before"
          :alt="t('before2', { name: one.name })"
          :width="SIDE / 2"
          :height="SIDE / 2"
        />
        <img
          :src="pairOf(one.cast)!.after"
          :alt="t('after2', { name: one.name })"
          :width="SIDE / 2"
          :height="SIDE / 2"
        />
      </button>
      <Skeleton v-else-if="state === 'working'" :width="`${SIDE}px`" :height="`${SIDE / 2}px`" />
      <b>{{ one.name }}</b>
      <span class="soft">{{ pairOf(one.cast) ? differenceIn(pairOf(one.cast)!) : "" }}</span>
      <span>{{ t("n1ChangeKept", { count: one.kept, kept: one.kept }) }}</span>
      <span v-for="(why, name) in one.lost" :key="name" class="error"
        ><span class="mono">{{ name }}</span
        >: {{ why }}</span
      >
      <span v-if="!Object.keys(one.lost).length" class="soft">{{ t("nothingLost") }}</span>
    </article>
    <p v-if="casts.length > MAX_CASTS" class="soft">
      {{ t("picturesOfTheFirstOfCasts", { MAX_CASTS, count: casts.length }) }}
    </p>
  </div>
</template>

<style scoped>
.pictures {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-4);
}
article {
  display: grid;
  gap: 2px;
  align-content: start;
  max-width: 240px;
}
button {
  display: flex;
  gap: 1px;
  padding: 0;
  border: 0;
  cursor: pointer;
  background: var(--surround);
}
</style>
