<script setup lang="ts">
import Button from "primevue/button";
import ProgressBar from "primevue/progressbar";
import { computed } from "vue";

import { useJobs } from "@/api/queries";
import { type Budget, errorWords, memoryWords } from "@/api/rules";

/** What to do about memory: measure, take the advice, shrink first what loses least. */
const props = defineProps<{ told: Budget; slug: string; mayPrepare: boolean }>();
const emit = defineEmits<{ measure: [] }>();
const jobs = useJobs(() => props.slug);
const limit = computed(() => (props.told.budget.memory_mib ?? 0) * (1 << 20));
const files = computed(() => props.told.sets.flatMap((one) => one.files));
const advised = computed(() => files.value.reduce((sum, one) => sum + (one.advice?.spared ?? 0), 0));
const halved = computed(() => files.value.reduce((sum, one) => sum + one.halved, 0));
const job = computed(() =>
  (jobs.data.value ?? []).find(
    (one) => one.kind === "advise" && (one.state === "running" || one.state === "waiting"),
  ),
);
</script>

<template>
  <aside class="scroll" aria-label="What to do">
    <h2>Measured</h2>
    <p class="soft">
      {{ told.measured }} of {{ told.files }} files.
      <template v-if="advised">
        With every advised format: {{ memoryWords(told.memory - advised) }},
        {{ memoryWords(Math.abs(advised)) }} {{ advised > 0 ? "less" : "more" }}.
      </template>
    </p>
    <template v-if="job">
      <ProgressBar
        :value="job.total ? Math.round((100 * job.done) / job.total) : 0"
        :mode="job.total ? 'determinate' : 'indeterminate'"
        aria-label="Measuring"
      />
      <p role="status">{{ job.message }}</p>
    </template>
    <Button
      v-if="mayPrepare && told.measured < told.files && !job"
      :label="`Measure ${told.files - told.measured} files`"
      @click="emit('measure')"
    />
    <p class="soft" data-test="halved">Everything at half the resolution: {{ memoryWords(halved) }}.</p>
    <h2>Shrink first</h2>
    <p v-if="!limit" class="soft">The target has no budget. Set one under Targets.</p>
    <p v-else-if="told.memory <= limit">Within the budget.</p>
    <p v-else-if="!told.measured" class="soft">Measure first: the error at half the resolution decides.</p>
    <template v-else>
      <p class="soft">
        Half the resolution of these {{ told.shrink.length }} files loses least for what it saves. It leaves
        <b>{{ memoryWords(told.shrunk) }}</b>{{ told.shrunk > limit ? ", still over the budget" : "" }}.
      </p>
      <ol class="shrink">
        <li v-for="one in told.shrink" :key="one.path">
          <span class="mono">{{ one.path.split("/").at(-1) }}</span>
          <span class="soft"
            >{{ memoryWords(one.spared) }} less, error {{ errorWords(one.error)[1] }} at the 99th
            percentile</span
          >
        </li>
      </ol>
    </template>
  </aside>
</template>

<style scoped>
aside {
  padding: var(--space-2) var(--space-4);
  display: grid;
  gap: var(--space-2);
  align-content: start;
  justify-items: start;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
.shrink li {
  display: grid;
  padding: var(--space-1) 0;
  border-top: 1px solid var(--line);
}
</style>
