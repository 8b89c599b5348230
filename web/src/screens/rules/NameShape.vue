<script setup lang="ts">
import { computed } from "vue";

import type { NamesDocument } from "@/api/rules";
import { chosen, vTyped } from "@/parts/typed";

/** What a name is made of: its parts in order, how they are joined and written, the suffix of each role. */
const props = defineProps<{ document: NamesDocument; mayChange: boolean }>();
const emit = defineEmits<{ set: [change: Partial<NamesDocument>] }>();

const KINDS = ["asset", "part", "variant", "suffix", "resolution", "tile", "version", "text"];
type Part = NamesDocument["parts"][number];
const parts = computed(() => props.document.parts);
const left = computed(() =>
  KINDS.filter((kind) => kind === "text" || !parts.value.some((one) => one.part === kind)),
);
const text = (event: Event) => (event.target as HTMLInputElement).value;

function change(index: number, next: Part): void {
  emit("set", { parts: parts.value.map((one, at) => (at === index ? next : one)) });
}
function move(index: number, by: number): void {
  const next = [...parts.value];
  const [one] = next.splice(index, 1);
  next.splice(Math.max(0, Math.min(next.length, index + by)), 0, one!);
  emit("set", { parts: next });
}
function add(event: Event): void {
  const kind = chosen<Part["part"] | "">(event);
  (event.target as HTMLSelectElement).value = "";
  if (!kind) return;
  const made: Part =
    kind === "text" ? { part: kind, text: "x" } : { part: kind, optional: kind !== "suffix" };
  emit("set", { parts: kind === "text" ? [made, ...parts.value] : [...parts.value, made] });
}
function words(index: number, typed: string): void {
  const found = typed.split(/[\s,]+/).filter(Boolean);
  const rest = Object.fromEntries(Object.entries(parts.value[index]!).filter(([key]) => key !== "words"));
  change(index, found.length ? { ...(rest as Part), words: found } : (rest as Part));
}
function suffix(role: string, value: string): void {
  const next = { ...props.document.suffixes };
  if (value.trim()) next[role] = value.trim();
  else delete next[role];
  emit("set", { suffixes: next });
}
function addSuffix(event: Event): void {
  const input = event.target as HTMLInputElement;
  const word = input.value.trim().toLowerCase();
  input.value = "";
  if (word) suffix(word, word);
}
</script>

<template>
  <fieldset :disabled="!mayChange">
    <ol class="parts" aria-label="Parts of a name">
      <li v-for="(one, index) in parts" :key="index">
        <div class="top">
          <b>{{ one.part }}</b>
          <button
            type="button"
            class="plain"
            :disabled="!index"
            aria-label="Earlier"
            @click="move(index, -1)"
          >
            <i class="pi pi-arrow-left" />
          </button>
          <button
            type="button"
            class="plain"
            :disabled="index === parts.length - 1"
            aria-label="Later"
            @click="move(index, 1)"
          >
            <i class="pi pi-arrow-right" />
          </button>
          <button
            v-if="one.part !== 'asset' && one.part !== 'suffix'"
            type="button"
            class="plain"
            :aria-label="`Take ${one.part} out`"
            @click="emit('set', { parts: parts.filter((_, at) => at !== index) })"
          >
            <i class="pi pi-times" />
          </button>
        </div>
        <input
          v-if="one.part === 'text'"
          v-typed="one.text"
          class="mono"
          aria-label="The text"
          @change="change(index, { ...one, text: text($event) })"
        />
        <label v-else-if="one.part !== 'asset'" class="check"
          ><input
            type="checkbox"
            :checked="one.optional ?? false"
            @change="change(index, { ...one, optional: ($event.target as HTMLInputElement).checked })"
          />
          may be missing</label
        >
        <input
          v-if="['part', 'variant', 'asset'].includes(one.part)"
          v-typed="(one.words ?? []).join(' ')"
          class="mono"
          placeholder="any word"
          :aria-label="`Words allowed for ${one.part}`"
          @change="words(index, text($event))"
        />
      </li>
      <li class="new">
        <select aria-label="Add a part" @change="add">
          <option value="">Add a part …</option>
          <option v-for="kind in left" :key="kind" :value="kind">{{ kind }}</option>
        </select>
      </li>
    </ol>
    <div class="row">
      <label
        >between parts
        <select :value="document.separator ?? '_'" @change="emit('set', { separator: chosen($event) })">
          <option value="_">_</option>
          <option value="-">-</option>
          <option value=".">.</option>
        </select></label
      >
      <label
        >written
        <select :value="document.case ?? 'lower'" @change="emit('set', { case: chosen($event) })">
          <option value="lower">lower</option>
          <option value="pascal">Pascal</option>
          <option value="camel">camel</option>
          <option value="upper">UPPER</option>
          <option value="keep">as it is</option>
        </select></label
      >
      <label
        >2048 is
        <select :value="document.resolution ?? '2k'" @change="emit('set', { resolution: chosen($event) })">
          <option value="2k">2k</option>
          <option value="2K">2K</option>
          <option value="2048">2048</option>
        </select></label
      >
      <label
        >at most
        <input
          v-typed="document.longest ?? 64"
          type="number"
          min="8"
          max="200"
          @change="emit('set', { longest: Number(text($event)) })"
        />
        characters</label
      >
      <label
        >folder
        <input
          v-typed="document.folder ?? ''"
          class="mono"
          placeholder="where it is"
          @change="emit('set', { folder: text($event) || null })"
      /></label>
    </div>
    <div class="suffixes" aria-label="Suffixes">
      <label v-for="(value, role) in document.suffixes" :key="role"
        ><span>{{ String(role).replace("_", " ") }}</span>
        <input v-typed="value" class="mono" @change="suffix(String(role), text($event))" />
      </label>
      <label
        ><span class="soft">a pack or role</span> <input class="mono" placeholder="ard" @change="addSuffix"
      /></label>
    </div>
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 12px;
  font-size: 12px;
}
.parts {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.parts li {
  border: 1px solid var(--line-strong);
  background: var(--sheet);
  padding: 4px 6px;
  display: grid;
  gap: 3px;
  align-content: start;
  width: 122px;
}
.parts li.new {
  border-style: dashed;
  align-content: center;
}
.top {
  display: flex;
  gap: 6px;
}
.top b {
  flex: 1;
}
.top .plain:disabled {
  color: var(--line-strong);
}
input:not([type="checkbox"]),
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 1px 4px;
  width: 100%;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
}
.row input,
.row select {
  width: auto;
}
.row input[type="number"] {
  width: 56px;
}
.row input.mono {
  width: 110px;
}
.check {
  display: flex;
  gap: 4px;
  align-items: center;
}
.suffixes {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 3px 14px;
}
.suffixes label {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 84px;
  gap: 6px;
  align-items: center;
}
</style>
