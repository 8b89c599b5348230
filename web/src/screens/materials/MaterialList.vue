<script setup lang="ts">
import { computed, ref } from "vue";

import type { Adoption, CastRow, MasterRow } from "@/api/materials";
import { useKeys } from "@/app/keys";
import FilePick from "@/parts/FilePick.vue";
import Mark from "@/parts/Mark.vue";

import { branchesOf } from "./materialTree";

/** The masters that a project uses with the casts of each, and what else the studio's library holds. */
const props = defineProps<{
  slug: string;
  masters: Adoption[];
  casts: CastRow[];
  library: MasterRow[];
  cast: number;
  master: string;
  mayChange: boolean;
  mayWrite: boolean;
}>();
const emit = defineEmits<{
  cast: [name: string, from: { master?: string; parent?: number }];
  master: [title: string];
  file: [file: File];
}>();
const newCast = ref("");
const newMaster = ref("");
const words = ref("");
const search = ref<HTMLInputElement>();
const opened = ref(new Set<string>());
const others = computed(() => {
  const used = new Set(props.masters.map((one) => one.master));
  const sought = words.value.trim().toLowerCase();
  return props.library.filter((one) => !used.has(one.name) && one.title.toLowerCase().includes(sought));
});
const branches = computed(() => {
  const looked = props.master || current.value?.master;
  return branchesOf(props.masters, props.casts, words.value, new Set([...opened.value, looked ?? ""]));
});
const show = (master: string) => (opened.value = new Set([...opened.value, master]));
useKeys("Masters", [{ key: "/", does: "Find a cast or master", run: () => search.value?.focus() }]);
const current = computed(() => props.casts.find((one) => one.id === props.cast));
const from = computed(() =>
  current.value
    ? { words: current.value.name, of: { parent: current.value.id } }
    : props.master
      ? {
          words: props.library.find((one) => one.name === props.master)?.title ?? props.master,
          of: { master: props.master },
        }
      : null,
);
function make(): void {
  if (!from.value || !newCast.value.trim()) return;
  emit("cast", newCast.value.trim(), from.value.of);
  newCast.value = "";
}
function makeMaster(): void {
  if (!newMaster.value.trim()) return;
  emit("master", newMaster.value.trim());
  newMaster.value = "";
}
</script>

<template>
  <aside class="scroll" aria-label="Materials">
    <input
      v-if="masters.length + library.length > 3"
      ref="search"
      v-model="words"
      class="find"
      placeholder="Find  ( / )"
      aria-label="Find a cast or master"
    />
    <section
      v-for="{ master: one, rows, hidden, full } in branches"
      :key="one.master"
      :data-master="one.master"
    >
      <RouterLink
        class="master"
        :to="{ name: 'materials', params: { slug, kind: 'master', key: one.master } }"
        :aria-current="one.master === master ? 'page' : undefined"
        >{{ one.title }} <span class="soft">{{ one.number }}</span></RouterLink
      >
      <RouterLink
        v-if="one.waiting"
        class="waiting"
        :to="{ name: 'materials', params: { slug, kind: 'update', key: one.master } }"
        >{{ one.newest }} waits</RouterLink
      >
      <RouterLink
        v-if="one.casts > 1"
        class="compare"
        :to="{ name: 'materials', params: { slug, kind: 'compare', key: one.master } }"
        >compare</RouterLink
      >
      <RouterLink
        v-if="one.casts"
        class="compare"
        :to="{ name: 'materials', params: { slug, kind: 'write', key: one.master } }"
        >write</RouterLink
      >
      <span v-if="one.beyond.length" class="old small" data-test="beyond"
        ><Mark severity="warning" /> {{ one.beyond.join("; ") }}</span
      >
      <span v-if="one.pinned" class="soft small">pinned</span>
      <span v-if="one.deprecated" class="old small">deprecated</span>
      <RouterLink
        v-for="{ row, depth } in rows"
        :key="row.id"
        class="cast"
        :style="{ paddingLeft: `${12 + depth * 12}px` }"
        :to="{ name: 'materials', params: { slug, kind: 'cast', key: row.id } }"
        :aria-current="row.id === cast ? 'page' : undefined"
        >{{ row.name }} <Mark v-if="row.worst" :severity="row.worst"
      /></RouterLink>
      <button v-if="hidden" class="plain more" @click="full ? search?.focus() : show(one.master)">
        {{ full ? `${hidden} more, find them by name` : `${hidden} more` }}
      </button>
    </section>
    <p v-if="words && !branches.length && !others.length" class="soft">Nothing is called so.</p>
    <p v-if="!masters.length" class="soft">
      No master is in use yet. Open one of the library below and derive a cast from it.
    </p>
    <form v-if="mayChange && from" @submit.prevent="make">
      <label>New cast of {{ from.words }} <input v-model="newCast" placeholder="its name" /></label>
      <button :disabled="!newCast.trim()">Derive</button>
    </form>
    <h2>Library</h2>
    <RouterLink
      v-for="one in others"
      :key="one.name"
      class="master plainly"
      :to="{ name: 'materials', params: { slug, kind: 'master', key: one.name } }"
      :aria-current="one.name === master ? 'page' : undefined"
      >{{ one.title }} <span class="soft">{{ one.newest ?? "draft" }}</span></RouterLink
    >
    <form v-if="mayWrite" @submit.prevent="makeMaster">
      <label>New master <input v-model="newMaster" placeholder="its title" /></label>
      <button :disabled="!newMaster.trim()">Begin</button>
      <FilePick label="Read a master from a file" accept=".mtlx,.gltf,.glb" @files="emit('file', $event[0]!)"
        >or read one from a file …</FilePick
      >
    </form>
  </aside>
</template>

<style scoped>
aside {
  border-right: 1px solid var(--line);
  background: var(--sheet);
  padding: 8px;
  display: grid;
  gap: 6px;
  align-content: start;
  font-size: 12px;
}
a {
  display: block;
  color: inherit;
  text-decoration: none;
  padding: 3px 6px;
  border-left: 3px solid transparent;
}
a[aria-current] {
  border-left-color: var(--accent);
  background: var(--accent-wash);
}
.find {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 3px 5px;
  width: 100%;
}
.more {
  color: var(--accent);
  padding: 2px 6px 2px 15px;
}
.master {
  font-weight: 650;
}
.plainly {
  font-weight: 400;
}
.waiting {
  display: inline-block;
  color: var(--warning);
  font-weight: 650;
}
.compare {
  display: inline-block;
  color: var(--accent);
}
.small {
  font-size: 11px;
  padding-left: 8px;
}
.old {
  color: var(--warning);
}
form {
  display: grid;
  gap: 4px;
  border-top: 1px solid var(--line);
  padding: 8px 6px;
}
form input {
  width: 100%;
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px 4px;
}
form button {
  justify-self: start;
}
h2 {
  font-size: 12px;
  padding: 6px 6px 0;
  border-top: 1px solid var(--line);
}
p {
  margin: 0;
}
</style>
