<script setup lang="ts">
import { computed, ref } from "vue";

import { useTargets } from "@/api/queries";
import { useSetChanges } from "@/api/setChanges";
import { useRuleChanges } from "@/api/ruleChanges";
import { type BudgetSet, memoryWords, useBudget } from "@/api/rules";
import type { Project } from "@/api/types";

import AdviceList from "./AdviceList.vue";
import MemoryScopes from "./MemoryScopes.vue";
import MetresInput from "./MetresInput.vue";
import ShrinkFirst from "./ShrinkFirst.vue";
import { type By, groupsOf } from "./memory";

/** What everything takes of graphics memory for a target, drawn to scale; what to shrink to get under the budget. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const MIB = 1 << 20;
const chosen = ref("");
const target = computed(() => chosen.value || props.project.target);
const targets = useTargets(() => props.slug);
const budget = useBudget(() => props.slug, target);
const changes = useRuleChanges(() => props.slug);
const setChanges = useSetChanges(() => props.slug);
type Scope = By | "targets" | "projects";
const scopes: [Scope, string][] = [
  ["set", "Sets"],
  ["role", "Roles"],
  ["output", "Outputs"],
  ["targets", "Targets"],
  ["projects", "Projects"],
];
const scope = ref<Scope>("set");
const open = ref<string | null>(null);
function look(next: Scope): void {
  scope.value = next;
  open.value = null;
}
function into(name: string): void {
  chosen.value = name;
  look("set");
}

const told = computed(() => budget.data.value ?? null);
const limit = computed(() => (told.value?.budget.memory_mib ?? 0) * MIB);
const scale = computed(() => Math.max(limit.value, told.value?.memory ?? 1));
const by = computed<By | null>(() =>
  scope.value === "targets" || scope.value === "projects" ? null : scope.value,
);
const groups = computed(() => (told.value && by.value ? groupsOf(told.value, by.value) : []));
const opened = computed(() => groups.value.find((one) => one.key === open.value) ?? null);
const shown = computed(() => (opened.value ? [opened.value] : groups.value));
const setOf = (name: string) => told.value?.sets.find((one) => one.name === name);
const openedFiles = computed(() => {
  const paths = new Set(opened.value?.parts.map((one) => one.path));
  return (told.value?.sets ?? []).flatMap((one) => one.files).filter((file) => paths.has(file.path));
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
function density(one: BudgetSet | undefined): string {
  const wanted = told.value?.budget.density;
  if (!one || one.density === null) return "";
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
      <nav class="scopes" aria-label="Memory by">
        <button
          v-for="[key, label] in scopes"
          :key="key"
          class="plain"
          :aria-pressed="scope === key"
          @click="look(key)"
        >
          {{ label }}
        </button>
        <button v-if="opened" class="plain link" @click="open = null">Back to all</button>
      </nav>
      <MemoryScopes
        v-if="by === null"
        :slug="slug"
        :by="scope as 'targets'"
        :target="target"
        @target="into"
      />
      <div v-if="told && by" class="legend">
        <span v-for="one in outputs" :key="one"><i :style="{ background: shade(one) }" /> {{ one }}</span>
      </div>
      <ol v-if="told && by" class="bars" :class="by">
        <li v-for="one in shown" :key="one.key">
          <button
            class="plain name"
            :aria-expanded="open === one.key"
            @click="open = open === one.key ? null : one.key"
          >
            {{ by === "role" ? one.key.replaceAll("_", " ") : one.key }}
          </button>
          <div class="bar" :title="memoryWords(one.memory)">
            <span
              v-for="part in one.parts"
              :key="part.path"
              :style="{ width: wide(part.memory), background: shade(part.output) }"
              :title="`${part.words}: ${memoryWords(part.memory)}`"
            />
          </div>
          <span
            class="number"
            :class="{ over: by === 'set' && told.budget.set_mib && one.memory > told.budget.set_mib * MIB }"
            >{{ memoryWords(one.memory) }}</span
          >
          <template v-if="by === 'set' && setOf(one.key)">
            <MetresInput
              :value="setOf(one.key)!.metres"
              :label="`Metres that ${one.key} covers`"
              :disabled="!mayPrepare"
              @change="setChanges.metres.mutate({ set: setOf(one.key)!.id, metres: $event })"
            />
            <span class="soft density">{{ density(setOf(one.key)) }}</span>
          </template>
          <span v-else class="soft">{{ Math.round((100 * one.memory) / told.memory) }} %</span>
        </li>
      </ol>
      <AdviceList v-if="opened" :files="openedFiles" />
    </section>
    <ShrinkFirst
      v-if="told"
      :told="told"
      :slug="slug"
      :may-prepare="mayPrepare"
      @measure="changes.measure(target)"
    />
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
.bars:not(.set) li {
  grid-template-columns: 150px minmax(0, 1fr) 76px 50px;
}
.scopes {
  display: flex;
  gap: 16px;
}
.scopes [aria-pressed="true"] {
  color: var(--accent);
  font-weight: 650;
  box-shadow: 0 2px 0 var(--accent);
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
p {
  margin: 0;
}
.link {
  color: var(--accent);
}
</style>
