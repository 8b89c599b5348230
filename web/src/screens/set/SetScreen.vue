<script setup lang="ts">
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, ref, watch } from "vue";
import { useRoute } from "vue-router";

import { may } from "@/api/people";
import { useCatalogue, useProject, useSet, useSets } from "@/api/queries";
import { useSetChanges } from "@/api/setChanges";
import { useRuleChanges } from "@/api/ruleChanges";
import GonePage from "@/parts/GonePage.vue";
import StateView from "@/parts/StateView.vue";
import { bend, COMPARISONS, expose, following, levelBy, plain, REPEATS } from "@/viewer/look";
import { t } from "@/texts/set";

import ChannelBoard from "./ChannelBoard.vue";
import CopySteps from "./CopySteps.vue";
import FindingList from "./FindingList.vue";
import MapStrip from "./MapStrip.vue";
import SetHead from "./SetHead.vue";
import { usePlaces } from "@/screens/team/usePlaces";
import SetPicture from "./SetPicture.vue";
import SidePanels from "./SidePanels.vue";
import TrialPanel from "./TrialPanel.vue";
import { useDraft } from "./useDraft";
import { useRemedies } from "./useRemedies";
import { useSetKeys } from "./useSetKeys";
import { useSetMoves } from "./useSetMoves";
import { useSetPage } from "./useSetPage";

const props = defineProps<{ slug: string; id: number }>();
const route = useRoute();
const ofProject = () => props.slug;
const set = useSet(ofProject, () => props.id);
const setList = useSets(ofProject);
const project = useProject(ofProject);
const changes = useSetChanges(ofProject);
const rules = useRuleChanges(ofProject);
const catalogue = useCatalogue();
const mayChange = computed(() => (project.data.value?.right ?? "look") !== "look");
const roles = computed(() => setList.data.value?.roles ?? []);
const shown = computed(() => (set.data.value?.id === props.id ? set.data.value : null));
const page = useSetPage({
  set: () => set.data.value ?? null,
  id: () => props.id,
  roles: () => roles.value,
  asked: Number(route.query.map) || null,
});
const { picked, view, other, look, shownFinding, maps, map, channels, levels } = page;
const colour = computed(() => roles.value.find((role) => role.key === map.value?.role)?.colour ?? false);
const draft = useDraft(ofProject, () => map.value);
const viewer = ref<{ fit: () => void; zoom: (factor: number) => void }>();
const copying = ref(false);
const chosenTarget = ref("");
const target = computed(() => chosenTarget.value || (project.data.value?.target ?? ""));
const wantedOutput = ref("");

/** With steps a map is compared with its source; a mip level with what plain averaging makes of it. */
const comparable = computed(() => {
  if (view.value === "formats") return other.value !== null;
  return draft.steps.value.length > 0 || look.level > 0;
});
watch(comparable, (some) => {
  if (!some) look.comparison = "none";
});

const { remedy, derive } = useRemedies({
  set: () => set.data.value ?? null,
  map: () => map.value,
  changes,
  pick: (id) => (picked.value = id),
  done: () => (shownFinding.value = null),
  tryStep: (_, step, finding) => {
    view.value = "flat";
    // The map that the finding is about is shown first.
    queueMicrotask(() => {
      draft.tryStep(step, String(finding.remedy?.label ?? ""));
      look.comparison = "wipe";
    });
  },
});

const places = usePlaces(ofProject, () => props.id, page);
places.shown.value = Number(route.query.comment) || null;

const { apply, goBy, back } = useSetMoves({
  slug: ofProject,
  id: () => props.id,
  sets: () => setList.data.value?.sets ?? [],
  page,
  places,
  draft,
  changes,
});

useSetKeys({
  pick: (index) => (picked.value = maps.value[index]?.id ?? picked.value),
  goBy,
  channel: page.toggleChannel,
  before: () => comparable.value && (look.comparison = look.comparison === "before" ? "none" : "before"),
  compare: () => comparable.value && (look.comparison = following(COMPARISONS, look.comparison)),
  fit: () => viewer.value?.fit(),
  zoom: (factor) => viewer.value?.zoom(factor),
  tile: () => (look.repeat = following(REPEATS, look.repeat)),
  half: () => (look.half = !look.half),
  expose: (by) => expose(look, by),
  bend: (factor) => bend(look, factor),
  level: (by) => levelBy(look, by, levels.value),
  plain: () => plain(look),
  statistics: () => (look.statistics = !look.statistics),
  surface: () => page.toggleView("surface"),
  formats: () => page.toggleView("formats"),
  packed: () => page.toggleView("packed"),
  firstRemedy: () => {
    const first = set.data.value?.findings.find((one) => one.remedy && !one.waiver);
    if (first && mayChange.value) remedy(first);
  },
  apply,
  back,
});
</script>

<template>
  <GonePage v-if="set.error.value" :title="t('thisSetNoLongerExists')">
    {{ t("itWasDeletedMergedOrUndone") }}
    <RouterLink :to="{ name: 'sets', params: { slug } }">{{ t("backToTheSets") }}</RouterLink>
  </GonePage>
  <StateView v-else-if="!shown" :query="set" height="4rem" />
  <div v-else class="page">
    <SetHead
      v-model:view="view"
      :look="look"
      :slug="slug"
      :set="shown"
      :right="project.data.value?.right"
      :editing="draft.dirty.value"
      :channels="channels"
      :comparable="comparable"
      @go="goBy"
    />
    <div class="middle">
      <MapStrip
        :slug="slug"
        :maps="maps"
        :roles="roles"
        :current="map?.id ?? null"
        @pick="((picked = $event), (view = view === 'surface' || view === 'packed' ? 'flat' : view))"
      />
      <Splitter state-key="set-page" state-storage="local" class="split">
        <SplitterPanel :size="72" :min-size="40" class="picture">
          <SetPicture
            ref="viewer"
            :slug="slug"
            :set="shown"
            :page="page"
            :draft="draft"
            :colour="colour"
            :target="target"
            :wanted="wantedOutput"
            :places="places"
          />
        </SplitterPanel>
        <SplitterPanel :size="28" :min-size="18" class="scroll">
          <TrialPanel
            v-if="view === 'formats' && map && map.width"
            :key="map.id"
            :slug="slug"
            :map="map"
            :may-change="mayChange"
            @show="page.showOther"
          />
          <SidePanels
            v-else-if="map"
            :slug="slug"
            :set="shown"
            :map="map"
            :roles="roles"
            :may-change="mayChange"
            :draft="draft"
            :kinds="catalogue.data.value?.steps ?? []"
            :derivations="catalogue.data.value?.derivations ?? []"
            :others="(setList.data.value?.sets ?? []).filter((one) => one.id !== id)"
            :changes="changes"
            :places="places"
            @look="picked = $event ?? picked"
            @apply="apply"
            @derive="derive"
            @copy="copying = true"
          >
            <template #default="{ tileable }">
              <FindingList
                :slug="slug"
                :set="shown"
                :roles="roles"
                :may-change="mayChange"
                :may-waive="may(project.data.value?.right, 'rules')"
                :shown="shownFinding?.id ?? null"
                @show="page.show"
                @judge="changes.judge.mutate({ set: id })"
                @remedy="remedy"
                @waive="(finding, reason, until) => rules.waive(finding.id, reason, until)"
                @revoke="(finding) => finding.waiver && rules.revoke(finding.waiver.id)"
                @alpha="(finding, role) => finding.map && changes.useAlpha.mutate({ map: finding.map, role })"
                @tileable="tileable()"
            /></template>
          </SidePanels>
        </SplitterPanel>
      </Splitter>
    </div>
    <CopySteps
      v-if="copying && map && setList.data.value"
      v-model:shown="copying"
      :map="map"
      :sets="setList.data.value.sets"
      :role="roles.find((one) => one.key === map?.role)?.label ?? ''"
      @copy="changes.copySteps.mutate({ map: map.id, sets: $event })"
    />
    <ChannelBoard
      v-model:wanted="wantedOutput"
      :slug="slug"
      :set="shown"
      :roles="roles"
      :target="target"
      @target="chosenTarget = $event"
      @large="view = 'packed'"
    />
  </div>
</template>

<style scoped>
.page {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  height: 100%;
}
.middle {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  min-height: 0;
}
.split {
  min-height: 0;
}
.picture {
  min-height: 0;
  min-width: 0;
  overflow: hidden;
}
</style>
