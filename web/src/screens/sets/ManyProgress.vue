<script setup lang="ts">
import Button from "primevue/button";
import ProgressBar from "primevue/progressbar";
import { computed } from "vue";

import { useJobs } from "@/api/queries";
import type { Job } from "@/api/types";
import { useStopJob } from "@/api/useStopJob";
import { timeLeft } from "@/app/timeLeft";
import { t } from "@/texts/sets";

/** Changes to many sets that are being made: how far each is, and stopping it, which leaves everything as it was. */
const props = defineProps<{ slug: string; mayChange: boolean }>();
const jobs = useJobs(() => props.slug);
const stop = useStopJob(() => props.slug);
const open = computed(() =>
  (jobs.data.value ?? []).filter((job) => job.kind === "many" && ["waiting", "running"].includes(job.state)),
);
const share = (job: Job) => (job.total ? Math.round((100 * job.done) / job.total) : 0);
const words = (job: Job) =>
  [job.total ? t("doneOfTotal", { done: job.done, total: job.total }) : t("waits"), timeLeft(job)]
    .filter(Boolean)
    .join(", ");
</script>

<template>
  <section v-if="open.length" :aria-label="t('changeAtWork')" data-test="many">
    <div v-for="job in open" :key="job.id" class="row" role="status">
      <b>{{ job.title }}</b>
      <ProgressBar class="bar" :value="share(job)" :show-value="false" :aria-label="job.title" />
      <span class="soft">{{ words(job) }}</span>
      <Button
        v-if="mayChange"
        text
        severity="secondary"
        :label="t('stop')"
        :title="t('stopLeavesEverythingAsItWas')"
        @click="stop(job.id)"
      />
    </div>
  </section>
</template>

<style scoped>
section {
  padding: var(--space-1) var(--space-4);
  border-bottom: 1px solid var(--line);
}
.bar {
  flex: 1;
  max-width: 30rem;
}
</style>
