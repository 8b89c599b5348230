<script setup lang="ts">
import Button from "primevue/button";
import ProgressBar from "primevue/progressbar";

import { client, data } from "@/api/client";
import { keys, type useDeliveries, useJobs } from "@/api/queries";
import type { Delivery } from "@/api/types";
import { useChange } from "@/api/useChange";
import { timeLeft } from "@/app/timeLeft";
import { whenOf } from "@/app/when";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/deliveries";

/** What was delivered, the newest first; what is being delivered, with its progress. */
const props = defineProps<{ slug: string; deliveries: ReturnType<typeof useDeliveries> }>();
const jobs = useJobs(() => props.slug);
const { change } = useChange(
  () => props.slug,
  () => [keys.deliveries(props.slug)],
);
const jobOf = (delivery: Delivery) => jobs.data.value?.find((job) => job.id === delivery.job);
function percentOf(delivery: Delivery): number {
  const job = jobOf(delivery);
  return job?.total ? Math.round((100 * job.done) / job.total) : 0;
}
function progressOf(delivery: Delivery): string {
  const job = jobOf(delivery);
  return [job?.message || delivery.state, job ? timeLeft(job) : ""].filter(Boolean).join(", ");
}
const isRunning = (one: Delivery) => one.state === "waiting" || one.state === "running";
const summaryOf = (one: Delivery) =>
  Object.entries(one.counts)
    .filter(([, count]) => count)
    .map(([status, count]) => `${count} ${status}`)
    .join(", ");

async function cancel(delivery: Delivery): Promise<void> {
  if (delivery.job === null) return;
  const params = { path: { slug: props.slug, pk: delivery.job } };
  await change(() => data(client.POST("/api/projects/{slug}/jobs/{pk}/cancel", { params })));
}
</script>

<template>
  <section :aria-label="t('delivered')">
    <h2>{{ t("delivered") }}</h2>
    <StateView :query="deliveries" :rows="3" height="5rem" :empty="!deliveries.data.value?.length">
      <template #empty>
        <p class="soft">
          {{ t("nothingYetEveryDeliveryGetsA") }}
        </p>
      </template>
      <article
        v-for="one in deliveries.data.value"
        :key="one.number"
        :data-delivery="one.number"
        :data-state="one.state"
      >
        <h3>#{{ one.number }} {{ one.title }}</h3>
        <div class="soft">
          {{ t("sets", { when: whenOf(one.created), by: one.by ?? t("somebody"), sets: one.sets }) }}
        </div>
        <template v-if="isRunning(one)">
          <ProgressBar :value="percentOf(one)" :show-value="false" :aria-label="t('progressOfTheDelivery')" />
          <div class="row">
            <span class="soft grow">{{ progressOf(one) }}</span>
            <Button text :label="t('cancel')" @click="cancel(one)" />
          </div>
        </template>
        <template v-else-if="one.state === 'done'">
          <div>{{ summaryOf(one) }}</div>
          <div v-for="problem in one.problems" :key="problem" class="error">
            {{ t("leftOut", { problem }) }}
          </div>
          <div class="mono soft folder">{{ one.folder }}</div>
          <Button
            as="a"
            outlined
            severity="secondary"
            icon="pi pi-download"
            :label="t('downloadZip')"
            :href="`/api/projects/${slug}/deliveries/${one.number}/zip`"
            download
          />
        </template>
        <div v-else class="error">
          {{ one.state === "cancelled" ? t("cancelledNothingWasWritten") : one.message }}
        </div>
      </article>
    </StateView>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--space-2);
}
article {
  display: grid;
  gap: 2px;
  justify-items: start;
  padding: var(--space-2) 0;
  border-top: 1px solid var(--line);
}
.p-progressbar {
  height: 6px;
  width: 100%;
}
.row {
  width: 100%;
}
.folder {
  overflow-wrap: anywhere;
}
</style>
