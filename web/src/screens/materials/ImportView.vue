<script setup lang="ts">
import { ref, watch } from "vue";

import { type ImportedMaster, readMaterialFile, type TakenIn } from "@/api/exchange";
import { useMaterialChanges } from "@/api/materialChanges";

/** Masters in a file: their rows and casts, what a sheet cannot say of them; each is taken by hand. */
const props = defineProps<{ slug: string; file: File | null }>();
const emit = defineEmits<{ made: [name: string] }>();
const changes = useMaterialChanges(() => props.slug);
const found = ref<ImportedMaster[]>([]);
const problem = ref("");
const reading = ref(false);
/** What was put into the library and cast, by the master's name in the file. */
const taken = ref<Record<string, TakenIn>>({});
watch(
  () => props.file,
  async (file) => {
    found.value = [];
    taken.value = {};
    problem.value = "";
    if (!file) return;
    reading.value = true;
    try {
      found.value = await readMaterialFile(file);
    } catch (error) {
      problem.value = (error as Error).message;
    } finally {
      reading.value = false;
    }
  },
  { immediate: true },
);
const documentOf = (one: ImportedMaster) => one.document;
async function add(one: ImportedMaster): Promise<void> {
  const made = await changes.newMaster(documentOf(one));
  if (made) emit("made", made.name);
}
async function takeIn(one: ImportedMaster): Promise<void> {
  const made = await changes.takeIn(one);
  if (made) taken.value = { ...taken.value, [documentOf(one).name]: made };
}
const changed = (cast: ImportedMaster["casts"][number]) =>
  Object.entries(cast.changes ?? {})
    .map(([name, value]) => `${name} ${Array.isArray(value) ? value.join(" ") : String(value)}`)
    .join(", ");
</script>

<template>
  <section class="scroll import" aria-label="Read from a file">
    <h1>{{ file ? file.name : "No file is chosen" }}</h1>
    <p v-if="!file" class="soft">Choose a MaterialX or glTF file at the end of the list on the left.</p>
    <p v-if="reading" class="soft">Reading …</p>
    <p v-if="problem" role="alert" class="problem">{{ problem }}</p>
    <article v-for="one in found" :key="documentOf(one).name">
      <header>
        <h2>{{ documentOf(one).title }}</h2>
        <span class="soft mono">{{ documentOf(one).name }}</span>
        <template v-if="!taken[documentOf(one).name]">
          <button class="do" :disabled="changes.busy.value" @click="add(one)">Put into the library</button>
          <button v-if="one.casts.length" class="do" :disabled="changes.busy.value" @click="takeIn(one)">
            … with {{ one.casts.length === 1 ? "its cast" : `its ${one.casts.length} casts` }}
          </button>
        </template>
      </header>
      <p v-if="!one.lost.length" class="soft">All of it can be said in a sheet.</p>
      <ul v-else aria-label="Not read">
        <li v-for="line in one.lost" :key="line">{{ line }}</li>
      </ul>
      <table>
        <tbody>
          <tr v-for="(text, name) in documentOf(one).inputs ?? {}" :key="name">
            <th scope="row">{{ String(name).replaceAll("_", " ") }}</th>
            <td class="mono">{{ text }}</td>
          </tr>
        </tbody>
      </table>
      <table v-if="one.casts.length" aria-label="Casts">
        <thead>
          <tr>
            <th>Cast</th>
            <th>changes</th>
            <th>is filled with</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(cast, at) in one.casts" :key="at">
            <th scope="row">{{ cast.name }}</th>
            <td class="mono">{{ changed(cast) || "nothing" }}</td>
            <td class="mono">
              <div v-for="(path, slot) in cast.files" :key="slot">{{ slot }} = {{ path }}</div>
            </td>
          </tr>
        </tbody>
      </table>
      <div v-if="taken[documentOf(one).name]" role="status">
        In the library, and cast:
        <RouterLink
          v-for="cast in taken[documentOf(one).name]!.casts"
          :key="cast.id"
          class="link"
          :to="{ name: 'materials', params: { slug, kind: 'cast', key: cast.id } }"
          >{{ cast.name }}</RouterLink
        >
        <ul v-if="taken[documentOf(one).name]!.unfilled.length" aria-label="Not filled">
          <li v-for="left in taken[documentOf(one).name]!.unfilled" :key="`${left.cast} ${left.slot}`">
            {{ left.cast }}: no set here holds {{ left.file }}, its {{ left.slot }} stays empty
          </li>
        </ul>
      </div>
    </article>
  </section>
</template>

<style scoped>
.import {
  padding: 10px 16px;
  display: grid;
  gap: 12px;
  align-content: start;
  font-size: 12px;
}
article {
  border-top: 1px solid var(--line);
  padding-top: 8px;
  display: grid;
  gap: 6px;
}
header {
  display: flex;
  gap: 14px;
  align-items: baseline;
}
h2 {
  font-size: 13px;
}
ul {
  margin: 0;
  padding-left: 16px;
  color: var(--warning);
}
p {
  margin: 0;
}
.problem {
  color: var(--error);
}
table {
  border-collapse: collapse;
}
.link {
  color: var(--accent);
  margin-left: 8px;
}
th:first-child {
  width: 170px;
}
thead th {
  font-weight: 400;
  color: var(--ink-soft);
}
th,
td {
  border-top: 1px solid var(--line);
  padding: 3px 16px 3px 0;
  text-align: left;
  overflow-wrap: anywhere;
}
</style>
