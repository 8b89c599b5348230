<script setup lang="ts">
import { ref, watch } from "vue";

import { type ImportedMaster, readMaterialFile } from "@/api/exchange";
import { type MasterDocument, useMaterialChanges } from "@/api/materials";

/** Masters in a file: their rows, what a sheet cannot say of them; each is put into the library by hand. */
const props = defineProps<{ slug: string; file: File | null }>();
const emit = defineEmits<{ made: [name: string] }>();
const changes = useMaterialChanges(() => props.slug);
const found = ref<ImportedMaster[]>([]);
const problem = ref("");
const reading = ref(false);
watch(
  () => props.file,
  async (file) => {
    found.value = [];
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
const documentOf = (one: ImportedMaster) => one.document as unknown as MasterDocument;
async function add(one: ImportedMaster): Promise<void> {
  const made = await changes.newMaster(documentOf(one));
  if (made) emit("made", made.name);
}
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
        <button class="do" :disabled="changes.busy.value" @click="add(one)">Put into the library</button>
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
      <p v-if="Object.keys(one.files).length" class="soft">
        Its maps:
        <span v-for="(path, slot) in one.files" :key="slot" class="mono">{{ slot }} = {{ path }}&ensp;</span>
      </p>
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
th,
td {
  border-top: 1px solid var(--line);
  padding: 3px 16px 3px 0;
  text-align: left;
  overflow-wrap: anywhere;
}
</style>
