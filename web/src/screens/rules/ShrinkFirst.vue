<script setup lang="ts">
import Button from "primevue/button";
import ProgressBar from "primevue/progressbar";
import { computed } from "vue";

import { useJobs } from "@/api/queries";
import { type Budget, errorWords, memoryWords } from "@/api/rules";
import { t } from "@/texts/rules";

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
  <aside class="scroll" :aria-label="t('whatToDo')">
    <h2>{{ t("measured") }}</h2>
    <p class="soft">
      {{ t("ofFiles", { measured: told.measured, files: told.files }) }}
      <template v-if="advised">
        {{
          t("withEveryAdvisedFormat", {
            memory: memoryWords(told.memory - advised),
            memory2: memoryWords(Math.abs(advised)),
            change: advised > 0 ? t("less2") : t("more2"),
          })
        }}
      </template>
    </p>
    <template v-if="job">
      <ProgressBar
        :value="job.total ? Math.round((100 * job.done) / job.total) : 0"
        :mode="job.total ? 'determinate' : 'indeterminate'"
        :aria-label="t('measuring')"
      />
      <p role="status">{{ job.message }}</p>
    </template>
    <Button
      v-if="mayPrepare && told.measured < told.files && !job"
      :label="t('measureFiles', { measured: told.files - told.measured })"
      @click="emit('measure')"
    />
    <p class="soft" data-test="halved">
      {{ t("everythingAtHalfTheResolution", { memory: memoryWords(halved) }) }}
    </p>
    <h2>{{ t("shrinkFirst") }}</h2>
    <p v-if="!limit" class="soft">{{ t("theTargetHasNoBudgetSet") }}</p>
    <p v-else-if="told.memory <= limit">{{ t("withinTheBudget") }}</p>
    <p v-else-if="!told.measured" class="soft">{{ t("measureFirstTheErrorAtHalf") }}</p>
    <template v-else>
      <p class="soft">
        {{ t("halfTheResolutionOfTheseFiles", { count: told.shrink.length }) }}
        <b>{{ memoryWords(told.shrunk) }}</b>{{ told.shrunk > limit ? t("stillOverTheBudget") : "" }}.
      </p>
      <ol class="shrink">
        <li v-for="one in told.shrink" :key="one.path">
          <span class="mono">{{ one.path.split("/").at(-1) }}</span>
          <span class="soft">{{
            t("lessErrorAtThe99thPercentile", {
              memory: memoryWords(one.spared),
              error: errorWords(one.error)[1],
            })
          }}</span>
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
