<script setup lang="ts">
import Popover from "primevue/popover";
import { computed, ref } from "vue";

import { client, data } from "@/api/client";
import { useJobs } from "@/api/queries";
import type { Job } from "@/api/types";

const props = defineProps<{ slug: string }>();
const jobs = useJobs(() => props.slug);
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
const shown = computed(() => [...open.value, ...failed.value].slice(0, 40));
const order = (job: Job) => (job.total ? `${job.done} of ${job.total}` : job.state);

async function stop(job: Job): Promise<void> {
  await data(
    client.POST("/api/projects/{slug}/jobs/{pk}/cancel", {
      params: { path: { slug: props.slug, pk: job.id } },
    }),
  );
  await jobs.refetch();
}
</script>

<template>
  <button class="plain badge" aria-live="polite" @click="list?.toggle($event)">
    <template v-if="open.length">
      <span class="track"><span :style="{ width: `${share * 100}%` }" /></span>
      {{ open.length }} {{ open.length === 1 ? "job" : "jobs" }}
    </template>
    <span v-else-if="failed.length" class="failed">{{ failed.length }} failed</span>
    <span v-else class="soft">No jobs</span>
  </button>
  <Popover ref="list">
    <p v-if="!shown.length" class="soft">Nothing runs. Sorting, judging and delivering show here.</p>
    <ul>
      <li v-for="job in shown" :key="job.id">
        <div>
          <strong>{{ job.title }}</strong>
          <div class="soft">{{ order(job) }} {{ job.message }}</div>
        </div>
        <button v-if="job.state !== 'failed'" class="plain stop" @click="stop(job)">Cancel</button>
      </li>
    </ul>
  </Popover>
</template>

<style scoped>
.badge {
  display: flex;
  align-items: center;
  gap: 8px;
  min-width: 70px;
}
.track {
  width: 64px;
  height: 5px;
  background: var(--line);
}
.track span {
  display: block;
  height: 100%;
  background: var(--accent);
}
.failed {
  color: var(--error);
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
  display: flex;
  justify-content: space-between;
  gap: 10px;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
  overflow-wrap: anywhere;
}
.stop {
  color: var(--accent);
}
</style>
