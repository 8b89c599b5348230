<script setup lang="ts">
import Button from "primevue/button";
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
        As advised all would take {{ memoryWords(told.memory - advised) }},
        {{ memoryWords(Math.abs(advised)) }} {{ advised > 0 ? "less" : "more" }}.
      </template>
    </p>
    <p v-if="job" role="status">{{ job.done }} of {{ job.total || "…" }}: {{ job.message }}</p>
    <Button
      v-if="mayPrepare && told.measured < told.files && !job"
      size="small"
      :label="`Measure ${told.files - told.measured} files`"
      @click="emit('measure')"
    />
    <p class="soft" data-test="halved">One resolution step down for everything: {{ memoryWords(halved) }}.</p>
    <h2>Shrink first</h2>
    <p v-if="!limit" class="soft">The target has no budget; give it one under Targets.</p>
    <p v-else-if="told.memory <= limit" class="under">Within the budget.</p>
    <p v-else-if="!told.measured" class="soft">Measure first: what is lost by half the size decides.</p>
    <template v-else>
      <p class="soft">
        Half the size of {{ told.shrink.length }} files, the least loss for each byte first, leaves
        <b>{{ memoryWords(told.shrunk) }}</b>{{ told.shrunk > limit ? ", which is still over" : "" }}.
      </p>
      <ol class="shrink">
        <li v-for="one in told.shrink" :key="one.path">
          <span class="mono">{{ one.path.split("/").at(-1) }}</span>
          <span class="soft"
            >{{ memoryWords(one.spared) }} less; costs {{ errorWords(one.error)[1] }} at the 99th
            percentile</span
          >
        </li>
      </ol>
    </template>
  </aside>
</template>

<style scoped>
aside {
  border-left: 1px solid var(--line);
  background: var(--sheet);
  padding: 10px 14px;
  display: grid;
  gap: 8px;
  align-content: start;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
p {
  margin: 0;
}
.over {
  color: var(--error);
}
.under {
  color: var(--accent);
}
.shrink li {
  display: grid;
  padding: 4px 0;
  border-top: 1px solid var(--line);
  font-size: 12px;
}
</style>
