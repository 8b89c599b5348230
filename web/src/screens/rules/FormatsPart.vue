<script setup lang="ts">
import { computed } from "vue";

import { useRuleChanges } from "@/api/ruleChanges";
import { type FormatsDocument, useRules, type Rule, type RuleBody } from "@/api/rules";
import type { Project } from "@/api/types";
import { vTyped } from "@/parts/typed";

import { BLOCK_FORMATS } from "./formats";
import SaveBar from "./SaveBar.vue";
import { useEdited } from "./useEdited";

/** Which formats the project allows for what, and how much error it lives with. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "formats");
const changes = useRuleChanges(() => props.slug);
const rule = computed(() => rules.data.value?.[0] ?? null);
const { document, dirty, discard, set, keep } = useEdited<FormatsDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("formats", rule.value!.name, next, before);

type Allowed = FormatsDocument["allowed"];
const SORTS: [keyof Allowed, string][] = [
  ["colour", "Colour"],
  ["colour_alpha", "Colour with alpha"],
  ["normal", "Normal"],
  ["mask", "One channel"],
  ["packed", "Packed channels"],
  ["height", "Height"],
  ["light", "Colour in floats"],
];
const LIMITS: [keyof FormatsDocument["limits"], string, string][] = [
  ["colour", "Colour difference", "CIEDE2000 at the 99th percentile; about 1 is the least that is seen"],
  ["normal", "Angle", "degrees at the 99th percentile"],
  ["mask", "Step", "of full scale, at the 99th percentile"],
  ["coverage", "Coverage", "change in the share of a cut-out that shows"],
];
type SheetLimit = keyof NonNullable<FormatsDocument["sheets"]>;
const SHEETS: [SheetLimit, string, string][] = [
  ["reads", "Texture reads", "of a master's sheet"],
  ["samplers", "Samplers", "distinct ones"],
  ["arithmetic", "Arithmetic", "steps"],
  ["variants", "Variants", "shaders that switches and choices make"],
];
function sheetLimit(key: SheetLimit, event: Event): void {
  const text = (event.target as HTMLInputElement).value.trim();
  const sheets = { ...(document.value!.sheets ?? {}) };
  if (text) sheets[key] = Number(text);
  else delete sheets[key];
  set({ sheets });
}
function toggle(sort: keyof Allowed, key: string): void {
  const now = document.value!.allowed[sort] ?? [];
  const next = now.includes(key) ? now.filter((one) => one !== key) : [...now, key];
  set({ allowed: { ...document.value!.allowed, [sort]: next } });
}
function limit(key: string, event: Event): void {
  const value = Number((event.target as HTMLInputElement).value);
  set({ limits: { ...document.value!.limits, [key]: value } });
}
</script>

<template>
  <div class="formats scroll">
    <SaveBar
      v-if="rule"
      kind="formats"
      :slug="slug"
      :rule="rule"
      :dirty="dirty"
      :busy="changes.busy.value"
      :may-change="mayRule"
      @keep="keep(put)"
      @discard="discard"
    />
    <p class="soft">
      For each sort of map the cheapest of its formats is advised whose measured error stays within the limit.
    </p>
    <fieldset v-if="document" :disabled="!mayRule">
      <div class="limits">
        <label v-for="[key, label, help] in LIMITS" :key="key"
          ><b>{{ label }}</b>
          <input
            v-typed="document.limits[key]"
            type="number"
            min="0"
            :step="key === 'mask' || key === 'coverage' ? 0.01 : 0.5"
            @change="limit(key, $event)"
          />
          <span class="soft">{{ help }}</span></label
        >
      </div>
      <div class="limits" role="group" aria-label="The most that a sheet may cost">
        <label v-for="[key, label, help] in SHEETS" :key="key"
          ><b>{{ label }}</b>
          <input
            v-typed="document.sheets?.[key] ?? ''"
            type="number"
            min="0"
            step="1"
            placeholder="any"
            @change="sheetLimit(key, $event)"
          />
          <span class="soft">{{ help }}</span></label
        >
      </div>
      <table>
        <thead>
          <tr>
            <th />
            <th v-for="one in BLOCK_FORMATS" :key="one" class="mono">
              <span>{{ one }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="[sort, label] in SORTS" :key="sort">
            <th scope="row">{{ label }}</th>
            <td v-for="one in BLOCK_FORMATS" :key="one">
              <input
                type="checkbox"
                :checked="document.allowed[sort]?.includes(one) ?? false"
                :aria-label="`${one} for ${label.toLowerCase()}`"
                @change="toggle(sort, one)"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </fieldset>
  </div>
</template>

<style scoped>
.formats {
  padding: 8px 16px;
}
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 16px;
}
.limits {
  display: grid;
  gap: 4px;
}
.limits label {
  display: grid;
  grid-template-columns: 140px 80px 1fr;
  gap: 10px;
  align-items: center;
}
input[type="number"] {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px 4px;
}
table {
  border-collapse: collapse;
}
thead th {
  height: 76px;
  vertical-align: bottom;
  font-weight: 400;
}
thead span {
  writing-mode: vertical-rl;
  transform: rotate(180deg);
}
tbody th {
  text-align: left;
  font-weight: 400;
  padding-right: 14px;
  white-space: nowrap;
}
td {
  text-align: center;
  padding: 3px 5px;
}
tbody tr {
  border-top: 1px solid var(--line);
}
tbody tr:hover {
  background: var(--accent-wash);
}
</style>
