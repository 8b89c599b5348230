<script setup lang="ts">
import Button from "primevue/button";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, watch } from "vue";
import { useQueryClient } from "@tanstack/vue-query";

import { client, data } from "@/api/client";
import { keys, useDeliveries, useProject } from "@/api/queries";
import { useChange } from "@/api/useChange";
import { useKeys } from "@/app/keys";
import ScreenHead from "@/parts/ScreenHead.vue";
import { t } from "@/texts/deliveries";

import DeliveryCautions from "./DeliveryCautions.vue";
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
const { target, sets, going, plan, undecided, withErrors } = useDeliveryPlan(() => props.slug);
const { busy, change } = useChange(
  () => props.slug,
  () => [keys.deliveries(props.slug)],
);
const mayDeliver = computed(() => (project.data.value?.right ?? "look") !== "look");
const counts = computed(() => {
  const files = plan.data.value?.files ?? [];
  const of = (status: string) => files.filter((file) => file.status === status).length;
  return { all: files.length, fresh: of("new"), changed: of("changed"), same: of("unchanged") };
});
const state = computed(() => {
  if (!plan.data.value || !going.value.length) return "";
  const { all, fresh, changed, same } = counts.value;
  return t("filesNewChangedUnchanged", { all, fresh, changed, same });
});
const label = computed(() => t("deliver1Set", { count: going.value.length }));

async function deliver(): Promise<void> {
  if (!mayDeliver.value || !going.value.length || busy.value) return;
  await change(() =>
    data(
      client.POST("/api/projects/{slug}/deliveries", {
        params: { path: { slug: props.slug } },
        body: { target: target.value, sets: going.value },
      }),
    ),
  );
}
// A finished delivery changes what is new and what is not.
const finished = computed(() => (deliveries.data.value ?? []).filter((one) => one.state === "done").length);
watch(finished, () => void queries.invalidateQueries({ queryKey: keys.sets(props.slug) }));
useKeys(t("deliveries"), [{ key: "Enter", does: t("deliver"), run: () => void deliver() }]);
</script>

<template>
  <div class="screen">
    <ScreenHead :title="t('deliveries')" :state="state">
      <template #actions>
        <Button
          :label="label"
          :title="t('deliverEnter')"
          :disabled="!going.length || !mayDeliver || !counts.all"
          :loading="busy"
          @click="deliver"
        />
      </template>
    </ScreenHead>
    <Splitter state-key="deliveries" state-storage="local" class="split">
      <SplitterPanel :size="22" :min-size="14" class="scroll part">
        <TargetChoice v-model="target" :slug="slug" />
        <SetChoice v-model="going" :sets="sets" />
      </SplitterPanel>
      <SplitterPanel :size="52" :min-size="30" class="scroll part">
        <h2>{{ t("whatWillBeWritten") }}</h2>
        <DeliveryCautions :slug="slug" :undecided="undecided" :with-errors="withErrors" />
        <p v-if="!going.length" class="soft">{{ t("selectAtLeastOneSet") }}</p>
        <PlanList v-else :slug="slug" :plan="plan" :sets="sets" />
      </SplitterPanel>
      <SplitterPanel :size="26" :min-size="16" class="scroll part">
        <PastDeliveries :slug="slug" :deliveries="deliveries" />
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
  gap: var(--space-3);
  align-content: start;
}
</style>
