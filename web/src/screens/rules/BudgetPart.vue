<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import { useJobs, useTargets } from "@/api/queries";
import { useRuleChanges } from "@/api/ruleChanges";
import { type BudgetSet, errorWords, memoryWords, useBudget } from "@/api/rules";
import type { Project } from "@/api/types";

import AdviceList from "./AdviceList.vue";
import MetresInput from "./MetresInput.vue";

/** What everything takes of graphics memory for a target, drawn to scale; what to shrink to get under the budget. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const MIB = 1 << 20;
const chosen = ref("");
const target = computed(() => chosen.value || props.project.target);
const targets = useTargets(() => props.slug);
const budget = useBudget(() => props.slug, target);
const changes = useRuleChanges(() => props.slug);
const jobs = useJobs(() => props.slug);
const open = ref<number | null>(null);

const job = computed(() =>
  (jobs.data.value ?? []).find(
    (one) => one.kind === "advise" && (one.state === "running" || one.state === "waiting"),
  ),
);
const told = computed(() => budget.data.value ?? null);
const limit = computed(() => (told.value?.budget.memory_mib ?? 0) * MIB);
const scale = computed(() => Math.max(limit.value, told.value?.memory ?? 1));
const opened = computed(() => told.value?.sets.find((one) => one.id === open.value) ?? null);
const shown = computed(() => (opened.value ? [opened.value] : (told.value?.sets ?? [])));
const advised = computed(() => {
  const files = told.value?.sets.flatMap((one) => one.files) ?? [];
  return files.reduce((sum, one) => sum + (one.advice?.spared ?? 0), 0);
});
/** Shades tell outputs apart, and the words in them say which; they mean nothing else. */
const shades = ["#3f4f4d", "#61706e", "#83908e", "#a4afad", "#c4cccb", "#5a5a5a"];
const outputs = computed(() => [
  ...new Set(told.value?.sets.flatMap((one) => one.files.map((file) => file.output)) ?? []),
]);
const shade = (output: string) => shades[outputs.value.indexOf(output) % shades.length];
const largest = computed(() => Math.max(1, ...shown.value.map((one) => one.memory)));
const wide = (bytes: number) => `${(100 * bytes) / largest.value}%`;
const ofAll = (bytes: number) => `${(100 * bytes) / scale.value}%`;
const halved = computed(() =>
  (told.value?.sets ?? []).flatMap((one) => one.files).reduce((sum, one) => sum + one.halved, 0),
);
function density(one: BudgetSet): string {
  const wanted = told.value?.budget.density;
  if (one.density === null) return "";
  const rest = wanted ? `, ${Math.round((100 * one.density) / wanted)} % of the standard` : "";
  return `${Math.round(one.density)} texels/m${rest}`;
}
</script>

<template>
  <div class="budget">
    <section class="scroll main" aria-label="Memory">
      <header>
        <select
          :value="target"
          aria-label="Target"
          @change="chosen = ($event.target as HTMLSelectElement).value"
        >
          <option v-for="one in targets.data.value" :key="one.name" :value="one.name">{{ one.title }}</option>
        </select>
        <span v-if="told" data-test="total">
          <b>{{ memoryWords(told.memory) }}</b> with mips<template v-if="limit"
            >, budget {{ memoryWords(limit) }}:
            <b :class="told.memory > limit ? 'over' : 'under'">{{
              told.memory > limit
                ? `${memoryWords(told.memory - limit)} over`
                : `${memoryWords(limit - told.memory)} left`
            }}</b></template
          ><template v-else>, no budget</template>
        </span>
      </header>
      <p v-if="budget.error.value" class="over" role="alert">{{ budget.error.value.message }}</p>
      <p v-for="one in told?.problems ?? []" :key="one" class="over">{{ one }}</p>
      <div v-if="told" class="total" aria-hidden="true">
        <span :class="{ beyond: limit && told.memory > limit }" :style="{ width: ofAll(told.memory) }" />
        <i v-if="limit" :style="{ left: ofAll(limit) }" />
      </div>
      <div v-if="told" class="legend">
        <span v-for="one in outputs" :key="one"><i :style="{ background: shade(one) }" /> {{ one }}</span>
        <button v-if="opened" class="plain link" @click="open = null">All sets</button>
      </div>
      <ol v-if="told" class="bars">
        <li v-for="one in shown" :key="one.id">
          <button
            class="plain name"
            :aria-expanded="open === one.id"
            @click="open = open === one.id ? null : one.id"
          >
            {{ one.name }}
          </button>
          <div class="bar" :title="memoryWords(one.memory)">
            <span
              v-for="file in one.files"
              :key="file.path"
              :style="{
                width: wide(file.memory),
                background: shade(file.output),
              }"
              :title="`${file.output}: ${memoryWords(file.memory)}, ${file.width} × ${file.height}`"
            />
          </div>
          <span
            class="number"
            :class="{ over: told.budget.set_mib && one.memory > told.budget.set_mib * MIB }"
            >{{ memoryWords(one.memory) }}</span
          >
          <MetresInput
            :value="one.metres"
            :label="`Metres that ${one.name} covers`"
            :disabled="!mayPrepare"
            @change="changes.metres(one.id, $event)"
          />
          <span class="soft density">{{ density(one) }}</span>
        </li>
      </ol>
      <AdviceList v-if="opened" :files="opened.files" />
    </section>
    <aside class="scroll" aria-label="What to do">
      <h2>Measured</h2>
      <p v-if="told" class="soft">
        {{ told.measured }} of {{ told.files }} files.
        <template v-if="advised">
          As advised all would take {{ memoryWords(told.memory - advised) }},
          {{ memoryWords(Math.abs(advised)) }} {{ advised > 0 ? "less" : "more" }}.
        </template>
      </p>
      <p v-if="job" role="status">{{ job.done }} of {{ job.total || "…" }}: {{ job.message }}</p>
      <Button
        v-if="mayPrepare && told && told.measured < told.files && !job"
        size="small"
        :label="`Measure ${told.files - told.measured} files`"
        :disabled="changes.busy.value"
        @click="changes.measure(target)"
      />
      <p v-if="told" class="soft" data-test="halved">
        One resolution step down for everything: {{ memoryWords(halved) }}.
      </p>
      <h2>Shrink first</h2>
      <p v-if="!limit" class="soft">The target has no budget; give it one under Targets.</p>
      <p v-else-if="told && told.memory <= limit" class="under">Within the budget.</p>
      <p v-else-if="told && !told.measured" class="soft">
        Measure first: what is lost by half the size decides.
      </p>
      <template v-else-if="told">
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
  </div>
</template>

<style scoped>
.budget {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
}
.main {
  padding: 10px 16px;
  display: grid;
  gap: 10px;
  align-content: start;
}
header {
  display: flex;
  gap: 14px;
  align-items: center;
}
select,
input {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px 4px;
}
select {
  max-width: 320px;
}
.over {
  color: var(--error);
}
.under {
  color: var(--accent);
}
.total {
  position: relative;
  height: 10px;
  border: 1px solid var(--line-strong);
}
.total span {
  display: block;
  height: 100%;
  background: var(--ink-soft);
}
.total .beyond {
  background: var(--error);
}
.total i {
  position: absolute;
  top: -4px;
  bottom: -4px;
  width: 2px;
  background: var(--ink);
}
.legend {
  display: flex;
  gap: 14px;
  font-size: 12px;
}
.legend i {
  display: inline-block;
  width: 10px;
  height: 10px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
.bars li {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) 76px 74px 150px;
  gap: 10px;
  align-items: center;
  padding: 4px 0;
  border-top: 1px solid var(--line);
  font-size: 12px;
}
.name {
  font-weight: 650;
}
.bar {
  display: flex;
  height: 20px;
  overflow: hidden;
}
.bar span {
  border-right: 1px solid var(--paper);
}
.number {
  text-align: right;
}
aside {
  border-left: 1px solid var(--line);
  background: var(--sheet);
  padding: 10px 14px;
  display: grid;
  gap: 8px;
  align-content: start;
}
p {
  margin: 0;
}
.shrink li {
  display: grid;
  padding: 4px 0;
  border-top: 1px solid var(--line);
  font-size: 12px;
}
.link {
  color: var(--accent);
}
</style>
