<script setup lang="ts">
import { computed, ref } from "vue";

import type { Terms, Use } from "@/api/rules";
import type { TextureSet } from "@/api/types";
import LicenceInput from "@/parts/LicenceInput.vue";
import Mark from "@/parts/Mark.vue";
import Print from "@/parts/Print.vue";

/** The project's sets by the licence they came under, and what the rules say of each. */
const props = defineProps<{
  slug: string;
  sets: TextureSet[];
  terms: Terms[];
  mayChange: boolean;
  mayRule: boolean;
}>();
const emit = defineEmits<{ name: [licence: string, use: Use] }>();

const chosen = ref(new Set<number>());
const groups = computed(() => {
  const found = new Map<string, TextureSet[]>();
  for (const one of props.sets) {
    const key = one.licence.toLowerCase();
    found.set(key, [...(found.get(key) ?? []), one]);
  }
  return [...found.values()]
    .map((sets) => ({ licence: sets[0]!.licence, sets, ...verdict(sets[0]!.licence, sets) }))
    .sort((a, b) => a.licence.localeCompare(b.licence));
});

function verdict(licence: string, sets: TextureSet[]) {
  if (!licence) return { mark: "warning" as const, words: "nobody said", named: true };
  const terms = props.terms.find((one) => one.licence.toLowerCase() === licence.toLowerCase());
  if (!terms) return { mark: "error" as const, words: "not named in the rules, so refused", named: false };
  if (terms.use === "refused") return { mark: "error" as const, words: "refused", named: true };
  const nameless = terms.use === "credit" ? sets.filter((one) => !one.credit).length : 0;
  if (nameless) return { mark: "warning" as const, words: `${nameless} without a name to give`, named: true };
  return { mark: "fine" as const, words: terms.use === "credit" ? "taken, and named" : "taken", named: true };
}
function toggle(ids: number[]): void {
  const next = new Set(chosen.value);
  const all = ids.every((id) => next.has(id));
  for (const id of ids)
    if (all) next.delete(id);
    else next.add(id);
  chosen.value = next;
}
const colour = (set: TextureSet) =>
  set.maps.find((one) => one.in_use && one.role === "base_color") ?? set.maps[0];
</script>

<template>
  <section aria-label="Sets by licence">
    <article v-for="group in groups" :key="group.licence" :data-group="group.licence || 'unknown'">
      <header>
        <Mark :severity="group.mark" />
        <h2 class="mono">{{ group.licence || "unknown" }}</h2>
        <span class="soft"
          >{{ group.sets.length === 1 ? "1 set" : `${group.sets.length} sets` }}, {{ group.words }}</span
        >
        <span class="grow" />
        <template v-if="!group.named && mayRule">
          <button class="plain link" @click="emit('name', group.licence, 'free')">Take it</button>
          <button class="plain link" @click="emit('name', group.licence, 'refused')">Refuse it</button>
        </template>
        <button v-if="mayChange" class="plain link" @click="toggle(group.sets.map((one) => one.id))">
          Choose all
        </button>
      </header>
      <ul>
        <li v-for="one in group.sets" :key="one.id">
          <label :class="{ chosen: chosen.has(one.id) }">
            <input
              type="checkbox"
              :checked="chosen.has(one.id)"
              :disabled="!mayChange"
              :aria-label="one.name"
              @change="toggle([one.id])"
            />
            <Print v-if="colour(one)" :slug="slug" :map="colour(one)!" :side="64" />
            <span class="name">{{ one.name }}</span>
            <span v-if="one.credit" class="soft">{{ one.credit }}</span>
          </label>
        </li>
      </ul>
    </article>
    <p v-if="!sets.length" class="soft">No sets yet.</p>
    <div v-if="chosen.size" class="say">
      <LicenceInput :slug="slug" :sets="[...chosen]" @said="chosen = new Set()" />
    </div>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 12px;
  align-content: start;
}
header {
  display: flex;
  gap: 8px;
  align-items: baseline;
  border-bottom: 1px solid var(--line);
}
h2 {
  font-size: 13px;
  margin: 0;
}
.grow {
  flex: 1;
}
.link {
  color: var(--accent);
}
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(92px, 1fr));
  gap: 8px;
}
label {
  display: grid;
  gap: 2px;
  position: relative;
  cursor: pointer;
  font-size: 12px;
}
label.chosen {
  outline: 2px solid var(--accent);
}
label input {
  position: absolute;
  top: 4px;
  left: 4px;
  z-index: 1;
}
.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.say {
  position: sticky;
  bottom: 0;
  background: var(--sheet);
  border: 1px solid var(--line-strong);
  padding: 10px;
}
</style>
