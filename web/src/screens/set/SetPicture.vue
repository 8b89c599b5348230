<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from "vue";

import type { SetDetail } from "@/api/types";
import Viewer from "@/viewer/Viewer.vue";

import type { Places } from "@/screens/team/usePlaces";

import PackedView from "./PackedView.vue";
import type { Draft } from "./useDraft";
import type { SetPage } from "./useSetPage";

/** The large picture of a set's page: a map, flat or compressed; the set on a surface; what a target packs. */
const props = defineProps<{
  slug: string;
  set: SetDetail;
  page: SetPage;
  draft: Draft;
  /** Whether the map is one of colours. */
  colour: boolean;
  target: string;
  places: Places;
  /** The output that is looked at, by its path. */
  wanted: string;
}>();
const SurfaceView = defineAsyncComponent(() => import("@/preview/SurfaceView.vue"));
const viewer = ref<{ fit: () => void; zoom: (factor: number) => void }>();
const view = computed(() => props.page.view.value);
const map = computed(() => props.page.map.value);
const finding = computed(() => {
  const { value: shown } = props.page.shownFinding;
  return shown?.map === map.value?.id ? shown : null;
});
const has = (role: string) => props.set.maps.some((one) => one.role === role);
defineExpose({
  fit: () => viewer.value?.fit(),
  zoom: (factor: number) => viewer.value?.zoom(factor),
});
</script>

<template>
  <Viewer
    v-if="(view === 'flat' || view === 'formats') && map && map.width"
    ref="viewer"
    :slug="slug"
    :map="map"
    :colour="colour"
    :look="page.look"
    :levels="page.levels.value"
    :chain="page.chain.value"
    :preview="view === 'flat' ? draft.preview.value : null"
    :other="view === 'formats' ? page.other.value : null"
    :place="finding?.place"
    :marks="finding?.marks"
    :pins="places.pins.value"
    :marking="places.marking.value"
    @mark="places.mark"
    @pin="places.show($event)"
  />
  <SurfaceView
    v-else-if="view === 'surface'"
    :slug="slug"
    :set="set.id"
    :name="set.name"
    :occlusion="has('occlusion')"
    :rough="has('roughness') || has('glossiness')"
    :metal="has('metallic')"
    :stepped="set.maps.some((one) => one.recipe.some((step) => !step.off))"
  />
  <PackedView v-else-if="view === 'packed'" :slug="slug" :set="set" :target="target" :wanted="wanted" />
</template>
