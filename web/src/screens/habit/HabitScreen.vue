<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import { lesson, useHabit, useTeaching } from "@/api/habit";
import { useJobs, useProject, useProjects, useSets } from "@/api/queries";
import { useKeys } from "@/app/keys";
import { named } from "@/parts/fields/options";
import PickAction from "@/parts/fields/PickAction.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";

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
useKeys("File names", [{ key: "Y", does: "Confirm all guesses", run: confirmAll }]);
</script>

<template>
  <div class="screen">
    <ScreenHead title="File names" :state="state">
      <template #actions>
        <Button
          v-if="guesses.length && mayChange"
          :label="`Confirm ${guesses.length} ${guesses.length === 1 ? 'guess' : 'guesses'}`"
          title="Confirm all guesses (Y)"
          :disabled="busy"
          @click="confirmAll"
        />
        <PickAction
          v-if="others.length && mayChange"
          label="Copy from a project"
          :options="named(others, 'slug', 'name')"
          :disabled="busy"
          @pick="copy.mutate"
        />
        <Button
          v-if="mayChange"
          label="Sort again"
          outlined
          severity="secondary"
          title="By what is taught now; what was decided by hand stays"
          :disabled="busy"
          @click="again.mutate(undefined)"
        />
        <Button
          v-if="habit.data.value?.taught"
          as="a"
          label="Download"
          outlined
          severity="secondary"
          :href="`/api/projects/${slug}/habit/document`"
          download="habit.json"
        />
      </template>
    </ScreenHead>
    <div class="scroll content">
      <StateView :query="habit" :rows="8" height="48px" :empty="!lines.length">
        <template #empty>
          <p class="soft">
            Nothing was taken in yet. Drop a folder on
            <RouterLink :to="{ name: 'intake', params: { slug } }">Intake</RouterLink>.
          </p>
        </template>
        <table class="table">
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
      </StateView>
    </div>
  </div>
</template>

<style scoped>
.content {
  flex: 1;
  padding: var(--space-3) var(--space-4);
  background: var(--sheet);
}
table {
  width: 100%;
}
</style>
