<script setup lang="ts">
import Button from "primevue/button";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, ref, watch } from "vue";
import { useQueryClient } from "@tanstack/vue-query";

import { may } from "@/api/people";
import { client, data } from "@/api/client";
import { type Destination, useDestinations } from "@/api/destinations";
import { keys, useDeliveries, useProject } from "@/api/queries";
import { useChange } from "@/api/useChange";
import { useKeys } from "@/app/keys";
import CheckField from "@/parts/fields/CheckField.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import { t } from "@/texts/deliveries";

import BesideChoice from "./BesideChoice.vue";
import CompareDeliveries from "./CompareDeliveries.vue";
import DeliveryCautions from "./DeliveryCautions.vue";
import DestinationList from "./DestinationList.vue";
import DriftView from "./DriftView.vue";
import MirrorView from "./MirrorView.vue";
import PastDeliveries from "./PastDeliveries.vue";
import PlanList from "./PlanList.vue";
import SetChoice from "./SetChoice.vue";
import TargetChoice from "./TargetChoice.vue";
import { useDeliveryPlan } from "./useDeliveryPlan";

/** What goes to a target: chosen at the left, seen before it is written in the middle, what was delivered at the right. */
const props = defineProps<{ slug: string }>();
const queries = useQueryClient();
const project = useProject(() => props.slug);
const deliveries = useDeliveries(() => props.slug);
const destinations = useDestinations(() => props.slug);
const chosen = useDeliveryPlan(() => props.slug);
const { target, sets, going, casts, goingCasts, models, goingModels, grounds, goingGrounds } = chosen;
const { leaving, keepOthers, plan, undecided, withErrors } = chosen;
const some = computed(() => going.value.length + goingCasts.value.length + goingModels.value.length > 0);
const places = ref<number[]>([]);
const { busy, change } = useChange(
  () => props.slug,
  () => [keys.deliveries(props.slug), ["project", props.slug, "destinations"]],
);
const mayDeliver = computed(() => (project.data.value?.right ?? "look") !== "look");
const mayRule = computed(() => may(project.data.value?.right, "rules"));
const counts = computed(() => {
  const files = plan.data.value?.files ?? [];
  const of = (status: string) => files.filter((file) => file.status === status).length;
  return { all: files.length, fresh: of("new"), changed: of("changed"), same: of("unchanged") };
});
const state = computed(() => {
  if (!plan.data.value || !some.value) return "";
  const { all, fresh, changed, same } = counts.value;
  return t("filesNewChangedUnchanged", { all, fresh, changed, same });
});
const label = computed(() => {
  const parts = [
    [going.value.length, t("nSets", { count: going.value.length })],
    [goingCasts.value.length, t("nCasts", { count: goingCasts.value.length })],
    [goingModels.value.length, t("nModels", { count: goingModels.value.length })],
    [goingGrounds.value.length, t("nPatches", { count: goingGrounds.value.length })],
  ] as const;
  const told = parts.filter(([count]) => count).map(([, words]) => words);
  return t("deliverAll", { what: told.join(", ") || parts[0][1] });
});
/** What stands in the middle in place of the plan. */
type Shown =
  | { drift: number }
  | { before: number; now: number }
  | { mirror: { delivery: number } | { destination: number }; name: string };
const shown = ref<Shown | null>(null);
const drifting = computed<Destination | null>(() => {
  const id = shown.value && "drift" in shown.value ? shown.value.drift : 0;
  return destinations.data.value?.find((one) => one.id === id) ?? null;
});
const mirrored = computed(() => (shown.value && "mirror" in shown.value ? shown.value : null));
const compared = computed(() => (shown.value && "before" in shown.value ? shown.value : null));
const severalTargets = computed(
  () =>
    new Set(
      sets.value.flatMap((one) => (one.targets.length ? one.targets : [project.data.value?.target ?? ""])),
    ).size > 1,
);

async function deliver(): Promise<void> {
  if (!mayDeliver.value || !some.value || busy.value) return;
  await change(() =>
    data(
      client.POST("/api/projects/{slug}/deliveries", {
        params: { path: { slug: props.slug } },
        body: { ...chosen.ordered.value, destinations: places.value },
      }),
    ),
  );
}
const deliverToAll = () =>
  change(
    () =>
      data(
        client.POST("/api/projects/{slug}/deliveries/all", {
          params: { path: { slug: props.slug } },
          body: { sets: going.value },
        }),
      ),
    { said: (made) => t("deliveriesBegun", { count: made.length }) },
  );
// A finished delivery changes what is new and what is not.
const finished = computed(() => (deliveries.data.value ?? []).filter((one) => one.state === "done").length);
watch(finished, () => void queries.invalidateQueries({ queryKey: keys.sets(props.slug) }));
useKeys(t("deliveries"), [
  { key: "Enter", does: t("deliver"), run: () => void (shown.value ? null : deliver()) },
]);
</script>

<template>
  <div class="screen">
    <ScreenHead :title="t('deliveries')" :state="state">
      <template #actions>
        <Button
          v-if="severalTargets && mayDeliver"
          outlined
          :label="t('deliverToAllTargets')"
          :title="t('eachSetForAllItsTargets')"
          :disabled="!going.length || busy"
          @click="deliverToAll"
        />
        <Button
          :label="label"
          :title="t('deliverEnter')"
          :disabled="!some || !mayDeliver || !counts.all"
          :loading="busy"
          data-test="deliver"
          @click="deliver"
        />
      </template>
    </ScreenHead>
    <Splitter state-key="deliveries" state-storage="local" class="split">
      <SplitterPanel :size="24" :min-size="16" class="scroll part">
        <TargetChoice v-model="target" :slug="slug" />
        <DestinationList
          v-model="places"
          :slug="slug"
          :target="target"
          :may-rule="mayRule"
          @drift="shown = { drift: $event.id }"
          @mirror="shown = { mirror: { destination: $event.id }, name: $event.name }"
        />
        <SetChoice v-model="going" :sets="sets" />
        <BesideChoice v-if="casts.length" v-model="goingCasts" :title="t('castsToDeliver')" :things="casts" />
        <BesideChoice
          v-if="models.length"
          v-model="goingModels"
          :title="t('modelsToDeliver')"
          :things="models"
        />
        <BesideChoice
          v-if="grounds.length"
          v-model="goingGrounds"
          :title="t('groundToDeliver')"
          :things="grounds"
        />
        <CheckField
          v-if="leaving"
          v-model="keepOthers"
          :label="t('leaveOtherSetsAsDelivered')"
          :help="t('withoutItTheirFilesGo')"
        />
      </SplitterPanel>
      <SplitterPanel :size="50" :min-size="30" class="scroll part">
        <DriftView
          v-if="drifting"
          :key="drifting.id"
          :slug="slug"
          :destination="drifting"
          :may-change="mayDeliver"
          @done="shown = null"
        />
        <CompareDeliveries
          v-else-if="compared"
          :slug="slug"
          :before="compared.before"
          :now="compared.now"
          @done="shown = null"
        />
        <MirrorView
          v-else-if="mirrored"
          :key="mirrored.name"
          :slug="slug"
          :of="mirrored.mirror"
          :name="mirrored.name"
          :sets="sets"
          @done="shown = null"
        />
        <template v-else>
          <h2>{{ t("whatWillBeWritten") }}</h2>
          <DeliveryCautions :slug="slug" :undecided="undecided" :with-errors="withErrors" />
          <p v-if="!some" class="soft">{{ t("selectAtLeastOneSet") }}</p>
          <PlanList v-else :slug="slug" :plan="plan" :sets="sets" />
        </template>
      </SplitterPanel>
      <SplitterPanel :size="26" :min-size="16" class="scroll part">
        <PastDeliveries
          :slug="slug"
          :deliveries="deliveries"
          :destinations="destinations.data.value ?? []"
          :may-deliver="mayDeliver"
          :may-rule="mayRule"
          :keep-days="project.data.value?.keep_days ?? null"
          :approval="project.data.value?.approval ?? false"
          @compare="(before, now) => (shown = { before, now })"
          @mirror="shown = { mirror: { delivery: $event }, name: `#${$event}` }"
        />
      </SplitterPanel>
    </Splitter>
  </div>
</template>

<style scoped>
.split {
  flex: 1;
  min-height: 0;
}
.part {
  padding: var(--space-3) var(--space-4);
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: var(--space-3);
  align-content: start;
}
</style>
