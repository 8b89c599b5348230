<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import { isGuess, lesson, useHabit, useTeaching } from "@/api/habit";
import { useJobs, useProject, useProjects, useSets } from "@/api/queries";
import { useKeys } from "@/app/keys";
import { named } from "@/parts/fields/options";
import PickAction from "@/parts/fields/PickAction.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/habit";

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
const guesses = computed(() => lines.value.filter(isGuess));
const open = computed(() => lines.value.filter((line) => !line.decided && !line.taught));
const others = computed(() => (projects.data.value ?? []).filter((one) => one.slug !== props.slug));
const busy = computed(() =>
  (jobs.data.value ?? []).some((job) => job.kind === "resort" && ["waiting", "running"].includes(job.state)),
);
const suffixes = (count: number) => t("n1Suffix", { count });
const state = computed(() => {
  if (busy.value) return t("sortingAgainByWhatWasTaught");
  const waiting = [
    open.value.length ? t("couldNotBeDecided", { suffixes: suffixes(open.value.length) }) : "",
    guesses.value.length
      ? `${suffixes(guesses.value.length)} ${guesses.value.length > 1 ? t("areGuesses") : t("isAGuess")}`
      : "",
  ].filter(Boolean);
  if (waiting.length) return t("whatYouChooseHoldsForAll", { waiting: waiting.join(", ") });
  if (!lines.value.length) return "";
  return t("everySuffixIsSureOrTaught");
});

function confirmAll(): void {
  if (mayChange.value && guesses.value.length && !busy.value)
    teach.mutate(guesses.value.map((line) => lesson(line)));
}
useKeys(t("fileNames"), [{ key: "Y", does: t("confirmAllGuesses"), run: confirmAll }]);
</script>

<template>
  <div class="screen">
    <ScreenHead :title="t('fileNames')" :state="state">
      <template #actions>
        <Button
          v-if="guesses.length && mayChange"
          :label="t('confirmGuesses', { count: guesses.length })"
          :title="t('confirmAllGuessesY')"
          :disabled="busy"
          @click="confirmAll"
        />
        <PickAction
          v-if="others.length && mayChange"
          :label="t('copyFromAProject')"
          :options="named(others, 'slug', 'name')"
          :disabled="busy"
          @pick="copy.mutate"
        />
        <Button
          v-if="mayChange"
          :label="t('sortAgain')"
          outlined
          severity="secondary"
          :title="t('byWhatIsTaughtNowWhat')"
          :disabled="busy"
          @click="again.mutate(undefined)"
        />
        <Button
          v-if="habit.data.value?.taught"
          as="a"
          :label="t('download')"
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
            {{ t("nothingWasTakenInYetDrop") }}
            <RouterLink :to="{ name: 'intake', params: { slug } }">{{ t("intake") }}</RouterLink>.
          </p>
        </template>
        <table class="table">
          <thead>
            <tr>
              <th scope="col">{{ t("suffix") }}</th>
              <th scope="col">{{ t("means") }}</th>
              <th scope="col">{{ t("files") }}</th>
              <th scope="col">{{ t("howSure") }}</th>
              <th scope="col">{{ t("why") }}</th>
              <th scope="col">{{ t("examples") }}</th>
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
