<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { useProject, useRoll, useSet, useSetChanges } from "@/api/queries";
import { stepOf, stepsOf } from "@/api/recipes";
import type { Finding } from "@/api/types";
import { router } from "@/app/router";
import type { Channel, Comparison } from "@/viewer/renderer";
import Viewer from "@/viewer/Viewer.vue";

import BenchHead from "./BenchHead.vue";
import ChannelBoard from "./ChannelBoard.vue";
import Ledger from "./Ledger.vue";
import MapPanel from "./MapPanel.vue";
import MapStrip from "./MapStrip.vue";
import { useBenchKeys } from "./useBenchKeys";

const SurfaceView = defineAsyncComponent(() => import("@/preview/SurfaceView.vue"));
const props = defineProps<{ slug: string; id: number }>();
const route = useRoute();
const set = useSet(
  () => props.slug,
  () => props.id,
);
const roll = useRoll(() => props.slug);
const project = useProject(() => props.slug);
const changes = useSetChanges(() => props.slug);
const mayChange = computed(() => (project.data.value?.right ?? "look") !== "look");
const roles = computed(() => roll.data.value?.roles ?? []);

const order = computed(() => {
  const place = new Map(roles.value.map((role, index) => [role.key, index]));
  const maps = set.data.value?.id === props.id ? set.data.value.maps : [];
  return [...maps].sort(
    (a, b) => (place.get(a.role) ?? 99) - (place.get(b.role) ?? 99) || Number(b.in_use) - Number(a.in_use),
  );
});
const picked = ref<number | null>(Number(route.query.map) || null);
const map = computed(() => order.value.find((one) => one.id === picked.value) ?? order.value[0] ?? null);
const colour = computed(() => roles.value.find((role) => role.key === map.value?.role)?.colour ?? false);

const view = ref<"flat" | "surface">("flat");
const channel = ref<Channel>("rgb");
const comparison = ref<Comparison>("none");
const repeat = ref(1);
const shownFinding = ref<Finding | null>(null);
const viewer = ref<InstanceType<typeof Viewer>>();
const chosenTarget = ref("");
const target = computed(() => chosenTarget.value || (project.data.value?.target ?? ""));

const channels = computed(() => {
  const letters = map.value?.channel ? "r" : (map.value?.channels ?? "");
  const single = letters === "y" || letters === "r";
  return (["rgb", "r", "g", "b", "a"] as Channel[]).map((value) => ({
    value,
    label: value === "rgb" ? "All" : value.toUpperCase(),
    off: value !== "rgb" && (single || !(letters.includes(value) || (letters === "ya" && value === "r"))),
  }));
});
const hasSteps = computed(() => (map.value?.recipe.length ?? 0) > 0);

watch(
  () => props.id,
  () => (picked.value = null),
);
watch(
  () => map.value?.id,
  () => {
    shownFinding.value = null;
    if (channels.value.find((one) => one.value === channel.value)?.off) channel.value = "rgb";
  },
);
watch(hasSteps, (some) => {
  if (!some) comparison.value = "none";
});

function show(finding: Finding): void {
  if (finding.map) picked.value = finding.map;
  view.value = "flat";
  const letter = finding.place?.channel;
  // Wait for the map's own change to settle, then point at the place.
  queueMicrotask(() => {
    shownFinding.value = finding;
    if (letter && !channels.value.find((one) => one.value === letter)?.off) channel.value = letter as Channel;
  });
}

function remedy(finding: Finding): void {
  const mended = set.data.value?.maps.find((one) => one.id === finding.map);
  if (!mended || !finding.remedy) return;
  picked.value = mended.id;
  shownFinding.value = null;
  const label = String(finding.remedy.label);
  changes.recipe.mutate({ map: mended.id, recipe: [...stepsOf(mended), stepOf(finding.remedy)], label });
}

function addStep(step: string): void {
  if (map.value)
    changes.recipe.mutate({ map: map.value.id, recipe: [...stepsOf(map.value), { step }], label: "" });
}

function removeStep(index: number): void {
  if (!map.value) return;
  const label = `Remove ${map.value.recipe[index]!.label}`;
  changes.recipe.mutate({
    map: map.value.id,
    recipe: stepsOf(map.value).filter((_, at) => at !== index),
    label,
  });
}

function goBy(step: number): void {
  const sets = roll.data.value?.sets ?? [];
  const at = sets.findIndex((one) => one.id === props.id);
  const next = sets[at + step];
  if (next) void router.replace({ name: "bench", params: { slug: props.slug, id: next.id } });
}

function nextComparison(): void {
  if (!hasSteps.value) return;
  const all: Comparison[] = ["none", "wipe", "difference"];
  comparison.value = all[(all.indexOf(comparison.value) + 1) % all.length]!;
}

useBenchKeys({
  pick: (index) => (picked.value = order.value[index]?.id ?? picked.value),
  goBy,
  channel: (wanted) => {
    if (!channels.value.find((one) => one.value === wanted)?.off)
      channel.value = channel.value === wanted ? "rgb" : wanted;
  },
  compare: nextComparison,
  fit: () => viewer.value?.fit(),
  zoom: (factor) => viewer.value?.zoom(factor),
  tile: () => (repeat.value = repeat.value === 1 ? 2 : 1),
  surface: () => (view.value = view.value === "flat" ? "surface" : "flat"),
  firstRemedy: () => {
    const first = set.data.value?.findings.find((one) => one.remedy && one.map);
    if (first && mayChange.value) remedy(first);
  },
  back: () => void router.push({ name: "roll", params: { slug: props.slug } }),
});
const has = (role: string) => set.data.value?.maps.some((one) => one.role === role) ?? false;
</script>

<template>
  <div v-if="set.error.value" class="gone">
    <h1>This set is not there any more</h1>
    <p><RouterLink :to="{ name: 'roll', params: { slug } }">Back to the roll</RouterLink></p>
  </div>
  <div v-else-if="set.data.value && set.data.value.id === id" class="bench">
    <BenchHead
      v-model:view="view"
      v-model:channel="channel"
      v-model:comparison="comparison"
      v-model:repeat="repeat"
      :name="set.data.value.name"
      :channels="channels"
      :has-steps="hasSteps"
      @go="goBy"
    />
    <div class="middle">
      <MapStrip
        :slug="slug"
        :maps="order"
        :roles="roles"
        :current="map?.id ?? null"
        @pick="((picked = $event), (view = 'flat'))"
      />
      <div class="picture">
        <Viewer
          v-if="view === 'flat' && map && map.width"
          ref="viewer"
          :slug="slug"
          :map="map"
          :colour="colour"
          :channel="channel"
          :comparison="comparison"
          :repeat="repeat"
          :place="shownFinding?.map === map.id ? shownFinding.place : null"
        />
        <SurfaceView
          v-else-if="view === 'surface'"
          :slug="slug"
          :set="id"
          :name="set.data.value.name"
          :occlusion="has('occlusion')"
          :rough="has('roughness') || has('glossiness')"
          :metal="has('metallic')"
        />
      </div>
      <aside class="scroll">
        <MapPanel
          v-if="map"
          :set="set.data.value"
          :map="map"
          :roles="roles"
          :may-change="mayChange"
          @role="changes.place.mutate({ map: map.id, set: id, role: $event })"
          @remove-step="removeStep"
          @add-step="addStep"
          @split="changes.split.mutate({ set: id, name: '', maps: [map.id] })"
        />
        <Ledger
          :slug="slug"
          :set="set.data.value"
          :roles="roles"
          :may-change="mayChange"
          :shown="shownFinding?.id ?? null"
          @show="show"
          @judge="changes.judge.mutate({ set: id })"
          @remedy="remedy"
          @alpha="
            (finding, role) => finding.map && role && changes.useAlpha.mutate({ map: finding.map, role })
          "
        />
      </aside>
    </div>
    <ChannelBoard
      :slug="slug"
      :set="set.data.value"
      :roles="roles"
      :target="target"
      @target="chosenTarget = $event"
    />
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-rows: 40px minmax(0, 1fr) auto;
  height: 100%;
}
.middle {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) 318px;
  min-height: 0;
}
.picture {
  min-height: 0;
  min-width: 0;
}
aside {
  border-left: 1px solid var(--line);
}
.gone {
  padding: 64px;
}
</style>
