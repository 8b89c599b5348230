<script setup lang="ts">
import { computed } from "vue";

import { useSets } from "@/api/queries";
import { useRuleChanges } from "@/api/ruleChanges";
import { type LicencesDocument, type Terms, type Use, useRules, type Rule, type RuleBody } from "@/api/rules";
import type { Project } from "@/api/types";
import { vTyped } from "@/parts/typed";

import CopyFrom from "./CopyFrom.vue";
import SaveBar from "./SaveBar.vue";
import LicenceGroups from "./LicenceGroups.vue";
import { useEdited } from "./useEdited";

/** Which licences the project takes, beside what its sets came under. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "licences");
const setList = useSets(() => props.slug);
const changes = useRuleChanges(() => props.slug);
const rule = computed(() => rules.data.value?.[0] ?? null);
const { document, dirty, discard, set, keep } = useEdited<LicencesDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("licences", rule.value!.name, next, before);

const USES: [Use, string][] = [
  ["free", "taken"],
  ["credit", "taken, and named"],
  ["refused", "refused"],
];
const UNKNOWN: [string, string][] = [
  ["error", "not delivered"],
  ["warning", "a warning"],
  ["note", "a note"],
];
const terms = computed(() => document.value?.terms ?? []);
const twice = computed(() => {
  const names = terms.value.map((one) => one.licence.toLowerCase());
  return names.find((name, at) => names.indexOf(name) < at) ?? null;
});
function change(at: number, changed: Partial<Terms>): void {
  const next = terms.value.map((one, index) => (index === at ? { ...one, ...changed } : one));
  set({ terms: next.map((one) => (one.why ? one : { licence: one.licence, use: one.use })) });
}
const remove = (at: number) => set({ terms: terms.value.filter((_, index) => index !== at) });
function add(event: Event): void {
  const field = event.target as HTMLInputElement;
  const licence = field.value.trim();
  if (licence) set({ terms: [...terms.value, { licence, use: "free" }] });
  field.value = "";
}
function name(licence: string, use: Use): void {
  set({ terms: [...terms.value.filter((one) => one.licence !== licence), { licence, use }] });
}
const text = (event: Event) => (event.target as HTMLInputElement).value.trim();
</script>

<template>
  <div class="two">
    <div class="scroll left">
      <SaveBar
        v-if="rule"
        kind="licences"
        :slug="slug"
        :rule="rule"
        :dirty="dirty || rule.number === 0"
        :busy="changes.busy.value || twice !== null"
        :may-change="mayRule"
        @keep="keep(put)"
        @discard="discard"
      />
      <p v-if="rule?.number === 0" class="soft">
        An offer: nothing is held against it until it is kept. From then on, what is not named here is
        refused.
      </p>
      <p v-if="twice" role="alert">{{ twice }} stands twice; nothing could tell which counts.</p>
      <fieldset v-if="document" :disabled="!mayRule">
        <label class="unknown"
          >A set whose licence nobody told is
          <select
            :value="document.unknown ?? 'warning'"
            @change="set({ unknown: text($event) as LicencesDocument['unknown'] })"
          >
            <option v-for="[key, label] in UNKNOWN" :key="key" :value="key">{{ label }}</option>
          </select>
        </label>
        <table>
          <thead>
            <tr>
              <th>Licence</th>
              <th>Its sets are</th>
              <th>Why</th>
              <th />
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, at) in terms" :key="at" :data-licence="one.licence" :class="one.use">
              <td>
                <input
                  v-typed="one.licence"
                  class="mono"
                  maxlength="100"
                  :aria-label="`Licence ${at + 1}`"
                  @change="change(at, { licence: text($event) })"
                />
              </td>
              <td>
                <select
                  :value="one.use"
                  :aria-label="`What is under ${one.licence} is`"
                  @change="change(at, { use: text($event) as Use })"
                >
                  <option v-for="[key, label] in USES" :key="key" :value="key">{{ label }}</option>
                </select>
              </td>
              <td>
                <input
                  v-typed="one.why ?? ''"
                  maxlength="500"
                  :aria-label="`Why, for ${one.licence}`"
                  @change="change(at, { why: text($event) })"
                />
              </td>
              <td>
                <button class="plain" :aria-label="`Remove ${one.licence}`" @click="remove(at)">
                  <i class="pi pi-times" />
                </button>
              </td>
            </tr>
            <tr>
              <td colspan="4">
                <input
                  class="mono"
                  maxlength="100"
                  placeholder="another, as SPDX names it"
                  aria-label="Another licence"
                  @change="add"
                />
              </td>
            </tr>
          </tbody>
        </table>
      </fieldset>
      <CopyFrom
        v-if="mayRule && rule"
        :slug="slug"
        kind="licences"
        @copy="(project, name) => changes.copy('licences', project, name)"
      />
    </div>
    <LicenceGroups
      class="scroll right"
      :slug="slug"
      :sets="setList.data.value?.sets ?? []"
      :terms="terms"
      :may-change="mayPrepare"
      :may-rule="mayRule"
      @name="name"
    />
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(520px, 1fr) 1fr;
}
.left,
.right {
  padding: 8px 16px;
  min-height: 0;
}
.right {
  border-left: 1px solid var(--line);
}
fieldset {
  border: 0;
  margin: 8px 0;
  padding: 0;
  display: grid;
  gap: 12px;
}
table {
  border-collapse: collapse;
  width: 100%;
}
td:first-child {
  min-width: 220px;
}
td:nth-child(3) {
  width: 45%;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--ink-soft);
}
td {
  padding: 3px 8px 3px 0;
}
tr td:first-child {
  border-left: 3px solid transparent;
  padding-left: 6px;
}
tr.refused td:first-child {
  border-left-color: var(--error);
}
input,
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 3px 5px;
}
td input {
  width: 100%;
}
</style>
