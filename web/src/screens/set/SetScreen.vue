<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { useCatalogue, useProject, useSets, useSet } from "@/api/queries";
import { useSetChanges } from "@/api/setChanges";
import { useRuleChanges } from "@/api/ruleChanges";
import type { Finding } from "@/api/types";
import { router } from "@/app/router";
import {
  bend,
  type Channel,
  COMPARISONS,
  expose,
  following,
  levelBy,
  levelsOf,
  newLook,
  plain,
  REPEATS,
} from "@/viewer/look";
import type { Other } from "@/viewer/usePictures";
import Viewer from "@/viewer/Viewer.vue";

import SetHead from "./SetHead.vue";
import ChannelBoard from "./ChannelBoard.vue";
import FindingList from "./FindingList.vue";
import MapPanel from "./MapPanel.vue";
import CopySteps from "./CopySteps.vue";
import MapStrip from "./MapStrip.vue";
import SetLicence from "./SetLicence.vue";
import TrialPanel from "./TrialPanel.vue";
import { channelsOf } from "./channels";
import { useSetKeys } from "./useSetKeys";
import { useDraft } from "./useDraft";
import { useRemedies } from "./useRemedies";

const SurfaceView = defineAsyncComponent(() => import("@/preview/SurfaceView.vue"));
const props = defineProps<{ slug: string; id: number }>();
const route = useRoute();
const set = useSet(
  () => props.slug,
  () => props.id,
);
const setList = useSets(() => props.slug);
const project = useProject(() => props.slug);
const changes = useSetChanges(() => props.slug);
const others = computed(() => (setList.data.value?.sets ?? []).filter((one) => one.id !== props.id));
const rules = useRuleChanges(() => props.slug);
const mayChange = computed(() => (project.data.value?.right ?? "look") !== "look");
const roles = computed(() => setList.data.value?.roles ?? []);
const catalogue = useCatalogue();
const kinds = computed(() => catalogue.data.value?.steps ?? []);
const copying = ref(false);

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

const draft = useDraft(
  () => props.slug,
  () => map.value,
);
const view = ref<"flat" | "formats" | "surface">("flat");
const other = ref<Other | null>(null);
const look = newLook();
const levels = computed(() => levelsOf(map.value?.width ?? 1, map.value?.height ?? 1));
/** A mip chain depends on the map and, for roughness, on the normal map beside it. */
const chain = computed(() => {
  const normal = order.value.find((one) => one.role === "normal" && one.in_use);
  return [map.value, normal].map((one) => one?.digest.slice(0, 16) ?? "").join("-");
});
const shownFinding = ref<Finding | null>(null);
const viewer = ref<InstanceType<typeof Viewer>>();
const chosenTarget = ref("");
const target = computed(() => chosenTarget.value || (project.data.value?.target ?? ""));

const channels = computed(() => channelsOf(map.value));
const hasSteps = computed(() => (map.value?.recipe.length ?? 0) > 0);

watch(
  () => props.id,
  () => (picked.value = null),
);
watch(
  () => map.value?.id,
  () => {
    shownFinding.value = null;
    other.value = null;
    if (channels.value.find((one) => one.value === look.channel)?.off) look.channel = "rgb";
    look.level = 0;
  },
);
/** With steps a map is compared with its source; a mip level with what plain averaging makes of it. */
const comparable = computed(() =>
  view.value === "formats" ? other.value !== null : hasSteps.value || look.level > 0,
);
watch(comparable, (some) => {
  if (!some) look.comparison = "none";
});

const { remedy, derive } = useRemedies({
  set: () => set.data.value ?? null,
  map: () => map.value,
  changes,
  pick: (id) => (picked.value = id),
  done: () => (shownFinding.value = null),
});

function show(finding: Finding): void {
  if (finding.map) picked.value = finding.map;
  view.value = "flat";
  const letter = finding.place?.channel;
  // Wait for the map's own change to settle, then point at the place.
  queueMicrotask(() => {
    shownFinding.value = finding;
    if (letter && !channels.value.find((one) => one.value === letter)?.off) look.channel = letter as Channel;
  });
}

/** What a format or a misreading makes of the map, wiped against it. */
function showOther(wanted: Other | null): void {
  other.value = wanted;
  look.level = 0;
  if (wanted && look.comparison === "none") look.comparison = "wipe";
}

function keep(): void {
  if (map.value && draft.dirty.value)
    changes.recipe.mutate({
      map: map.value.id,
      recipe: draft.steps.value,
      label: "",
      seen: draft.seen.value,
    });
}

function goBy(step: number): void {
  const sets = setList.data.value?.sets ?? [];
  const next = sets[sets.findIndex((one) => one.id === props.id) + step];
  if (next) void router.replace({ name: "set", params: { slug: props.slug, id: next.id } });
}

function nextComparison(): void {
  if (!comparable.value) return;
  look.comparison = following(COMPARISONS, look.comparison);
}

useSetKeys({
  pick: (index) => (picked.value = order.value[index]?.id ?? picked.value),
  goBy,
  channel: (wanted) => {
    if (!channels.value.find((one) => one.value === wanted)?.off)
      look.channel = look.channel === wanted ? "rgb" : wanted;
  },
  compare: nextComparison,
  fit: () => viewer.value?.fit(),
  zoom: (factor) => viewer.value?.zoom(factor),
  tile: () => (look.repeat = following(REPEATS, look.repeat)),
  half: () => (look.half = !look.half),
  expose: (by) => expose(look, by),
  bend: (factor) => bend(look, factor),
  level: (by) => levelBy(look, by, levels.value),
  plain: () => plain(look),
  statistics: () => (look.statistics = !look.statistics),
  surface: () => (view.value = view.value === "surface" ? "flat" : "surface"),
  formats: () => (view.value = view.value === "formats" ? "flat" : "formats"),
  firstRemedy: () => {
    const first = set.data.value?.findings.find((one) => one.remedy);
    if (first && mayChange.value) remedy(first);
  },
  keep,
  back: () => {
    if (shownFinding.value) {
      shownFinding.value = null;
      return;
    }
    if (draft.dirty.value) draft.discard();
    else void router.push({ name: "sets", params: { slug: props.slug } });
  },
});
const has = (role: string) => set.data.value?.maps.some((one) => one.role === role) ?? false;
</script>

<template>
  <div v-if="set.error.value" class="gone">
    <h1>This set is not there any more</h1>
    <p><RouterLink :to="{ name: 'sets', params: { slug } }">Back to the sets</RouterLink></p>
  </div>
  <div v-else-if="set.data.value && set.data.value.id === id" class="bench">
    <SetHead
      v-model:view="view"
      :look="look"
      :name="set.data.value.name"
      :channels="channels"
      :comparable="comparable"
      @go="goBy"
    />
    <div class="middle">
      <MapStrip
        :slug="slug"
        :maps="order"
        :roles="roles"
        :current="map?.id ?? null"
        @pick="((picked = $event), (view = view === 'surface' ? 'flat' : view))"
      />
      <div class="picture">
        <Viewer
          v-if="view !== 'surface' && map && map.width"
          ref="viewer"
          :slug="slug"
          :map="map"
          :colour="colour"
          :look="look"
          :levels="levels"
          :chain="chain"
          :preview="view === 'flat' ? draft.preview.value : null"
          :other="view === 'formats' ? other : null"
          :place="shownFinding?.map === map.id ? shownFinding.place : null"
          :marks="shownFinding?.map === map.id ? shownFinding.marks : null"
        />
        <SurfaceView
          v-else-if="view === 'surface'"
          :slug="slug"
          :set="id"
          :name="set.data.value.name"
          :occlusion="has('occlusion')"
          :rough="has('roughness') || has('glossiness')"
          :metal="has('metallic')"
          :stepped="set.data.value.maps.some((one) => one.recipe.some((step) => !step.off))"
        />
      </div>
      <aside v-if="view === 'formats' && map && map.width" class="scroll">
        <TrialPanel :key="map.id" :slug="slug" :map="map" :may-change="mayChange" @show="showOther" />
      </aside>
      <aside v-else class="scroll">
        <MapPanel
          v-if="map"
          :set="set.data.value"
          :map="map"
          :roles="roles"
          :may-change="mayChange"
          :draft="draft"
          :kinds="kinds"
          :derivations="catalogue.data.value?.derivations ?? []"
          :others="others"
          @share="changes.share.mutate({ map: map.id, set: $event })"
          @role="changes.place.mutate({ map: map.id, set: id, role: $event })"
          @layer="changes.layer.mutate({ map: map.id, layer: $event })"
          @keep="keep"
          @derive="derive"
          @copy="copying = true"
          @split="changes.split.mutate({ set: id, name: '', maps: [map.id] })"
        />
        <SetLicence :slug="slug" :set="set.data.value" :may-change="mayChange" />
        <FindingList
          :slug="slug"
          :set="set.data.value"
          :roles="roles"
          :may-change="mayChange"
          :may-waive="project.data.value?.right === 'rules'"
          :shown="shownFinding?.id ?? null"
          @show="show"
          @judge="changes.judge.mutate({ set: id })"
          @remedy="remedy"
          @waive="(finding, reason, until) => rules.waive(finding.id, reason, until)"
          @revoke="(finding) => finding.waiver && rules.revoke(finding.waiver.id)"
          @alpha="
            (finding, role) => finding.map && role && changes.useAlpha.mutate({ map: finding.map, role })
          "
        />
      </aside>
    </div>
    <CopySteps
      v-if="map && setList.data.value"
      v-model:shown="copying"
      :map="map"
      :set-list="setList.data.value"
      :role="roles.find((one) => one.key === map?.role)?.label ?? ''"
      @copy="changes.copySteps.mutate({ map: map.id, sets: $event })"
    />
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
