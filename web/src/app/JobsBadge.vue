<script setup lang="ts">
import Button from "primevue/button";
import Popover from "primevue/popover";
import ProgressBar from "primevue/progressbar";
import { computed, ref } from "vue";

import { useJobs } from "@/api/queries";
import type { Job } from "@/api/types";
import { useStopJob } from "@/api/useStopJob";
import { t } from "@/texts/app";

import { timeLeft } from "./timeLeft";

/** Work in the background: how much of it is done, how long it will take, and stopping it. */
const props = defineProps<{ slug: string }>();
const MAX_SHOWN = 40;
const STATES: Record<string, string> = {
  running: t("running"),
  waiting: t("waiting"),
  failed: t("failed"),
};
const jobs = useJobs(() => props.slug);
const stop = useStopJob(() => props.slug);
const list = ref<InstanceType<typeof Popover>>();

const open = computed(() =>
  (jobs.data.value ?? []).filter((job) => job.state === "running" || job.state === "waiting"),
);
const failed = computed(() => (jobs.data.value ?? []).filter((job) => job.state === "failed"));
const share = computed(() => {
  const all = (jobs.data.value ?? []).filter((job) => job.state !== "cancelled");
  const done = all.reduce(
    (sum, job) => sum + (job.state === "done" ? 1 : job.total ? job.done / job.total : 0),
    0,
  );
  return all.length ? done / all.length : 0;
});
const shown = computed(() => [...open.value, ...failed.value].slice(0, MAX_SHOWN));
const label = computed(() => {
  if (open.value.length) return t("n1Job", { count: open.value.length });
  return failed.value.length ? t("failedJobs", { count: failed.value.length }) : t("noJobs");
});
const progress = (job: Job) => {
  const count = job.total ? t("doneOf", { done: job.done, total: job.total }) : STATES[job.state];
  return [count, job.message, timeLeft(job)].filter(Boolean).join(", ");
};
</script>

<template>
  <Button
    text
    severity="secondary"
    :class="{ error: !open.length && failed.length }"
    aria-live="polite"
    aria-haspopup="dialog"
    @click="list?.toggle($event)"
  >
    <ProgressBar
      v-if="open.length"
      class="bar"
      :value="Math.round(share * 100)"
      :show-value="false"
      :aria-label="t('runningJobs')"
    />
    {{ label }}
  </Button>
  <Popover ref="list" :aria-label="t('jobs')">
    <p v-if="!shown.length" class="soft">
      {{ t("nothingIsRunningSortingCheckingMeasuring") }}
    </p>
    <ul>
      <li v-for="job in shown" :key="job.id">
        <div>
          <strong>{{ job.title }}</strong>
          <div class="soft">{{ progress(job) }}</div>
          <ProgressBar
            v-if="job.state === 'running' && job.total"
            class="thin"
            :value="Math.round((100 * job.done) / job.total)"
            :show-value="false"
            :aria-label="t('progressOf', { title: job.title })"
          />
        </div>
        <Button v-if="job.state !== 'failed'" text :label="t('cancel')" @click="stop(job.id)" />
      </li>
    </ul>
  </Popover>
</template>

<style scoped>
.bar {
  width: 64px;
  height: 6px;
}
.thin {
  height: 4px;
  margin-top: 2px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  width: 340px;
  max-height: 320px;
  overflow: auto;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: var(--space-2);
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
  overflow-wrap: anywhere;
}
</style>
