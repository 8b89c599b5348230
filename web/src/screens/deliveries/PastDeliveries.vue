<script setup lang="ts">
import Button from "primevue/button";
import ProgressBar from "primevue/progressbar";

import { client, data } from "@/api/client";
import { type Destination, useDestinationChanges } from "@/api/destinations";
import { keys, type useDeliveries, useJobs } from "@/api/queries";
import { useTeamChanges } from "@/api/team";
import type { Delivery } from "@/api/types";
import { useChange } from "@/api/useChange";
import { timeLeft } from "@/app/timeLeft";
import { whenOf } from "@/app/when";
import CheckField from "@/parts/fields/CheckField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import { named } from "@/parts/fields/options";
import PickAction from "@/parts/fields/PickAction.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/deliveries";

/** What was delivered, the newest first; what is being delivered, with its progress. */
const props = defineProps<{
  slug: string;
  deliveries: ReturnType<typeof useDeliveries>;
  destinations: Destination[];
  mayDeliver: boolean;
  mayRule: boolean;
  keepDays: number | null;
  /** Whether only approved sets are delivered. */
  approval: boolean;
}>();
const emit = defineEmits<{ compare: [before: number, now: number]; mirror: [number: number] }>();
const places = useDestinationChanges(() => props.slug);
const jobs = useJobs(() => props.slug);
const { change } = useChange(
  () => props.slug,
  () => [keys.deliveries(props.slug), keys.project(props.slug)],
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

const mirrorWords = (told: NonNullable<Delivery["mirror"]>) =>
  told.errors
    ? t("mirrorErrors", { count: told.errors })
    : told.warnings
      ? t("mirrorWarnings", { count: told.warnings })
      : t("mirrorAsMeant");
/** Where a delivery lies now. */
const liesAt = (one: Delivery) => props.destinations.filter((place) => place.holds === one.number);
/** Where it can be brought: places of its target that hold another one. */
const bringsTo = (one: Delivery) =>
  props.destinations.filter(
    (place) => place.target === one.target && place.holds !== one.number && !place.problem,
  );
const others = (one: Delivery) =>
  (props.deliveries.data.value ?? [])
    .filter((other) => other.state === "done" && other.target === one.target && other.number !== one.number)
    .map((other) => ({ value: other.number, label: `#${other.number}` }));
const compare = (one: Delivery, other: number) =>
  emit("compare", Math.min(one.number, other), Math.max(one.number, other));
function bring(one: Delivery, id: number): void {
  const place = props.destinations.find((each) => each.id === id);
  if (place) void places.bring(place, one.number);
}
const team = useTeamChanges(() => props.slug);
const keep = (days: number | null) =>
  change(() =>
    data(
      client.PUT("/api/projects/{slug}/keeping", { params: { path: { slug: props.slug } }, body: { days } }),
    ),
  );
async function cancel(delivery: Delivery): Promise<void> {
  if (delivery.job === null) return;
  const params = { path: { slug: props.slug, pk: delivery.job } };
  await change(() => data(client.POST("/api/projects/{slug}/jobs/{pk}/cancel", { params })));
}
</script>

<template>
  <section :aria-label="t('delivered')">
    <h2>{{ t("delivered") }}</h2>
    <CheckField
      :model-value="approval"
      :label="t('approvedSetsOnly')"
      :help="t('approvedSetsOnlyHelp')"
      :disabled="!mayRule"
      @update:model-value="team.askForApproval(Boolean($event))"
    />
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
          {{ t("sets", { when: whenOf(one.created), by: one.by ?? t("somebody"), count: one.sets }) }}
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
          <div v-if="liesAt(one).length" data-test="lies-at">
            {{
              t("liesAt", {
                names: liesAt(one)
                  .map((place) => place.name)
                  .join(", "),
              })
            }}
          </div>
          <Button
            v-if="one.mirror"
            text
            size="small"
            :severity="one.mirror.errors ? 'danger' : 'secondary'"
            :label="mirrorWords(one.mirror)"
            :title="t('readBackAs', { title: one.mirror.title })"
            data-test="mirror"
            @click="emit('mirror', one.number)"
          />
          <p v-if="one.gone" class="soft">{{ t("itsFilesWereTakenAway", { when: whenOf(one.gone) }) }}</p>
          <template v-else>
            <div class="mono soft folder">{{ one.folder }}</div>
            <div class="row actions">
              <Button
                as="a"
                text
                severity="secondary"
                icon="pi pi-download"
                :label="t('downloadZip')"
                :href="`/api/projects/${slug}/deliveries/${one.number}/zip`"
                download
              />
              <PickAction
                v-if="mayDeliver && bringsTo(one).length"
                :label="t('bringTo')"
                :options="named(bringsTo(one), 'id', 'name')"
                @pick="(id) => bring(one, id)"
              />
              <PickAction
                v-if="others(one).length"
                :label="t('compareWith')"
                :options="others(one)"
                @pick="(other) => compare(one, other)"
              />
            </div>
          </template>
        </template>
        <div v-else class="error">
          {{ one.state === "cancelled" ? t("cancelledNothingWasWritten") : one.message }}
        </div>
      </article>
    </StateView>
    <div v-if="deliveries.data.value?.length" class="fields keeping">
      <span>{{ t("keepFilesFor") }}</span>
      <NumberField
        :value="keepDays"
        :label="t('daysThatFilesAreKept')"
        :min="1"
        :max="3650"
        :digits="0"
        :unit="t('days')"
        optional
        :placeholder="t('always')"
        :disabled="!mayRule"
        @change="keep($event)"
      />
    </div>
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
