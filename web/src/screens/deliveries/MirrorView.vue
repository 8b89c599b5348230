<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import { computed, defineAsyncComponent, ref } from "vue";

import {
  deliveredPicture,
  type Difference,
  type Mirrored,
  pictureThere,
  useMirror,
} from "@/api/destinations";
import type { TextureSet } from "@/api/types";
import CheckField from "@/parts/fields/CheckField.vue";
import Mark from "@/parts/Mark.vue";
import StateView from "@/parts/StateView.vue";
import { isDrawn, type Against } from "@/preview/readings";
import { t } from "@/texts/deliveries";

import FilePair from "@/parts/FilePair.vue";
import PairLook from "@/parts/PairLook.vue";
import { isPicture } from "./plan";

/**
 * What the engine would make of a delivery, or of a folder: each file as it was meant beside how the engine takes it,
 * loud where the two differ; on a surface where a set shows it.
 */
const props = defineProps<{
  slug: string;
  of: { delivery: number } | { destination: number };
  name: string;
  sets: TextureSet[];
}>();
const emit = defineEmits<{ done: [] }>();
const SurfaceView = defineAsyncComponent(() => import("@/preview/SurfaceView.vue"));
const mirror = useMirror(
  () => props.slug,
  () => props.of,
);
const all = ref(false);
const looked = ref<Mirrored | null>(null);
const surfaced = ref<{ set: TextureSet; against: Against } | null>(null);
const told = computed(() => mirror.data.value ?? null);
const wrong = computed(() => (told.value?.files ?? []).filter((one) => one.differences.length));
const shown = computed(() => (all.value ? (told.value?.files ?? []) : wrong.value));
const summary = computed(() =>
  wrong.value.length || told.value?.broken.length
    ? t("readOtherwise", { count: wrong.value.length, title: told.value?.title ?? "" })
    : t("readAsMeant", { title: told.value?.title ?? "" }),
);
const misreadOf = (one: Mirrored) => one.differences.find((each) => each.misread)?.misread ?? "";
const meant = (one: Mirrored, side: number) =>
  !isPicture(one.path) || one.taken === null
    ? null
    : "delivery" in props.of
      ? deliveredPicture(props.slug, props.of.delivery, one.path, side)
      : pictureThere(props.slug, props.of.destination, one.path, null, side);
const taken = (one: Mirrored, side: number) =>
  "delivery" in props.of && misreadOf(one)
    ? deliveredPicture(props.slug, props.of.delivery, one.path, side, misreadOf(one))
    : null;
const rolesOf = (channels: Record<string, string>) =>
  Object.entries(channels)
    .sort(([one], [other]) => "rgba".indexOf(one) - "rgba".indexOf(other))
    .map(([letter, role]) => `${letter.toUpperCase()} ${role.replaceAll("_", " ")}`)
    .join(", ") || t("nothingKnown");
const sentence = (side: { channels: Record<string, string>; space: string | null; green: string | null }) =>
  [
    rolesOf(side.channels),
    side.space === "srgb" ? "sRGB" : (side.space ?? ""),
    side.green === "up" ? "Y+" : side.green === "down" ? "Y-" : "",
  ]
    .filter(Boolean)
    .join("; ");
function surfaceOf(one: Mirrored, difference: Difference): { set: TextureSet; against: Against } | null {
  const set = props.sets.find((each) => each.name === one.set);
  return set && difference.misread && isDrawn(difference.misread)
    ? { set, against: difference.misread as Against }
    : null;
}
const has = (set: TextureSet, ...roles: string[]) => set.maps.some((one) => roles.includes(one.role));
</script>

<template>
  <section :aria-label="t('mirrorOf', { name })">
    <div class="row">
      <h2>{{ t("mirrorOf", { name }) }}</h2>
      <span class="grow" />
      <Button text :label="t('backToThePlan')" icon="pi pi-arrow-left" @click="emit('done')" />
    </div>
    <StateView :query="mirror" :rows="4" height="6rem">
      <p data-test="mirror-summary">{{ summary }}</p>
      <p class="soft">{{ t("theMirrorIsAStandIn") }}</p>
      <CheckField v-model="all" :label="t('showFilesReadAsMeant')" />
      <p v-for="(one, at) in told?.broken ?? []" :key="at">
        <Mark :severity="one.severity" /> {{ one.message }}
      </p>
      <FilePair
        v-for="one in shown"
        :key="one.path"
        :path="one.path"
        :words="one.meant ? t('meantAs', { sentence: sentence(one.meant) }) : t('nothingExplainsIt')"
        :before="meant(one, 192)"
        :after="taken(one, 192)"
        :before-label="t('asMeant')"
        :after-label="t('asRead')"
        @look="looked = one"
      >
        <div v-if="one.taken" class="soft">{{ t("takenAs", { sentence: sentence(one.taken) }) }}</div>
        <div
          v-for="(difference, at) in one.differences"
          :key="at"
          class="difference"
          :data-difference="difference.kind"
        >
          <Mark :severity="difference.severity" /> <span>{{ difference.message }}</span>
          <Button
            v-if="surfaceOf(one, difference)"
            text
            size="small"
            :label="t('seeOnASurface')"
            @click="surfaced = surfaceOf(one, difference)"
          />
        </div>
      </FilePair>
    </StateView>
    <PairLook
      v-if="looked"
      :path="looked.path"
      :before="meant(looked, 1024)"
      :after="taken(looked, 1024)"
      :before-label="t('asMeant')"
      :after-label="t('asRead')"
      @close="looked = null"
    />
    <Dialog
      v-if="surfaced"
      :visible="true"
      modal
      maximizable
      :header="surfaced.set.name"
      :style="{ width: '80vw', height: '86vh' }"
      :content-style="{ height: '100%' }"
      @update:visible="surfaced = null"
    >
      <SurfaceView
        :slug="slug"
        :set="surfaced.set.id"
        :name="surfaced.set.name"
        :occlusion="has(surfaced.set, 'occlusion')"
        :rough="has(surfaced.set, 'roughness', 'glossiness')"
        :metal="has(surfaced.set, 'metallic')"
        :stepped="false"
        :against="surfaced.against"
      />
    </Dialog>
  </section>
</template>

<style scoped>
.difference {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: var(--space-2);
  align-items: baseline;
}
.difference > :last-child:not(span) {
  grid-column: 2;
  justify-self: start;
}
</style>
