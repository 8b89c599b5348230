<script setup lang="ts">
import Button from "primevue/button";
import Select from "primevue/select";
import Skeleton from "primevue/skeleton";
import { computed } from "vue";

import { lesson, useHabit, useTeaching } from "@/api/habit";
import { useJobs, useProject, useProjects, useSets } from "@/api/queries";
import { useKeys } from "@/app/keys";

import HabitRow from "./HabitRow.vue";
import { inOrder } from "./meanings";

/** The habit of the project's folders: what each suffix was taken for. One change sorts all its files again. */
const props = defineProps<{ slug: string }>();
const habit = useHabit(() => props.slug);
const setList = useSets(() => props.slug);
const project = useProject(() => props.slug);
const projects = useProjects();
const jobs = useJobs(() => props.slug);
const { teach, forget, again, copy } = useTeaching(() => props.slug);

const mayChange = computed(() => (project.data.value?.right ?? "look") !== "look");
const lines = computed(() => inOrder(habit.data.value?.lines ?? []));
const guesses = computed(() => lines.value.filter((line) => line.decided && !line.certain && !line.taught));
const open = computed(() => lines.value.filter((line) => !line.decided && !line.taught));
const others = computed(() => (projects.data.value ?? []).filter((one) => one.slug !== props.slug));
const busy = computed(() =>
  (jobs.data.value ?? []).some((job) => job.kind === "resort" && ["waiting", "running"].includes(job.state)),
);
const suffixes = (count: number) => (count === 1 ? "1 suffix" : `${count} suffixes`);
const state = computed(() => {
  if (busy.value) return "Sorting again by what was taught …";
  const waiting = [
    open.value.length ? `${suffixes(open.value.length)} could not be decided` : "",
    guesses.value.length
      ? `${suffixes(guesses.value.length)} ${guesses.value.length > 1 ? "are guesses" : "is a guess"}`
      : "",
  ].filter(Boolean);
  if (waiting.length) return `${waiting.join(", ")}. What you choose holds for all files with that suffix.`;
  if (!lines.value.length) return "";
  return "Every suffix is sure or taught. What you change holds for all files with that suffix.";
});

function confirmAll(): void {
  if (mayChange.value && guesses.value.length && !busy.value)
    teach.mutate(guesses.value.map((line) => lesson(line)));
}
useKeys("Habit", [{ key: "Y", does: "Confirm all guesses", run: confirmAll }]);
</script>

<template>
  <div class="screen scroll">
    <header>
      <div>
        <h1>What the file names mean</h1>
        <p class="soft" aria-live="polite">{{ state }}</p>
      </div>
      <div class="actions">
        <Button
          v-if="guesses.length && mayChange"
          :label="`Confirm ${guesses.length} ${guesses.length === 1 ? 'guess' : 'guesses'}`"
          size="small"
          :disabled="busy"
          @click="confirmAll"
        />
        <Select
          v-if="others.length && mayChange"
          :model-value="null"
          :options="others"
          option-label="name"
          option-value="slug"
          size="small"
          placeholder="Take over from a project"
          aria-label="Take over from a project"
          :disabled="busy"
          @update:model-value="(other: string) => copy.mutate(other)"
        />
        <Button
          v-if="mayChange"
          label="Sort again"
          size="small"
          outlined
          title="By what is taught now; what was decided by hand stays"
          :disabled="busy"
          @click="again.mutate(undefined)"
        />
        <Button
          v-if="habit.data.value?.taught"
          as="a"
          label="Download"
          size="small"
          outlined
          :href="`/api/projects/${slug}/habit/document`"
          download="habit.json"
        />
      </div>
    </header>

    <Skeleton v-if="!habit.data.value" height="240px" />
    <p v-else-if="!lines.length" class="soft">
      Nothing was taken in yet. Drop a folder on the
      <RouterLink :to="{ name: 'intake', params: { slug } }">intake</RouterLink>.
    </p>
    <table v-else>
      <thead>
        <tr>
          <th scope="col">Suffix</th>
          <th scope="col">Means</th>
          <th scope="col">Files</th>
          <th scope="col">How sure</th>
          <th scope="col">Why</th>
          <th scope="col">Examples</th>
        </tr>
      </thead>
      <tbody>
        <HabitRow
          v-for="line in lines"
          :key="`${line.where}/${line.folder}/${line.suffix}/${line.role}`"
          :slug="slug"
          :line="line"
          :roles="setList.data.value?.roles ?? []"
          :may-change="mayChange"
          :busy="busy"
          @teach="(role, channels) => teach.mutate([lesson(line, role, channels)])"
          @forget="forget.mutate(line)"
        />
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.screen {
  padding: 16px 24px;
  gap: 12px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: start;
  gap: 16px;
}
header p {
  margin: 2px 0 0;
}
.actions {
  display: flex;
  gap: 8px;
  align-items: center;
}
table {
  width: 100%;
  border-collapse: collapse;
  background: var(--sheet);
}
thead th {
  text-align: left;
  font-weight: 400;
  color: var(--ink-soft);
  padding: 6px 12px 6px 0;
  border-bottom: 1px solid var(--line-strong);
}
table :deep(th:first-child) {
  padding-left: 12px;
}
</style>
