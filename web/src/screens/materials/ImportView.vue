<script setup lang="ts">
import Message from "primevue/message";
import Skeleton from "primevue/skeleton";
import { ref, watch } from "vue";

import { type ImportedMaster, readMaterialFile, type TakenIn } from "@/api/exchange";
import { useMaterialChanges } from "@/api/materialChanges";
import { t } from "@/texts/materials";

import ImportedCard from "./ImportedCard.vue";

/** Masters in a file: their rows and casts, what a sheet cannot hold of them; each is added by hand. */
const props = defineProps<{ slug: string; file: File | null }>();
const emit = defineEmits<{ made: [name: string] }>();
const changes = useMaterialChanges(() => props.slug);
const read = ref<ImportedMaster[]>([]);
const problem = ref("");
const reading = ref(false);
/** What was added to the library with its casts, by the master's name in the file. */
const taken = ref<Record<string, TakenIn>>({});
watch(
  () => props.file,
  async (file) => {
    read.value = [];
    taken.value = {};
    problem.value = "";
    if (!file) return;
    reading.value = true;
    try {
      read.value = await readMaterialFile(file);
    } catch (error) {
      problem.value = (error as Error).message;
    } finally {
      reading.value = false;
    }
  },
  { immediate: true },
);
async function add(one: ImportedMaster): Promise<void> {
  const made = await changes.newMaster(one.document);
  if (made) emit("made", made.name);
}
async function takeIn(one: ImportedMaster): Promise<void> {
  const made = await changes.takeIn(one);
  if (made) taken.value = { ...taken.value, [one.document.name]: made };
}
</script>

<template>
  <section class="scroll import" :aria-label="t('importFromAFile')">
    <h2>{{ file ? file.name : t("noFileIsChosen") }}</h2>
    <p v-if="!file" class="soft">{{ t("chooseAMaterialxOrGltfFile") }}</p>
    <Skeleton v-if="reading" height="10rem" />
    <Message v-if="problem" severity="error" :closable="false" role="alert">{{ problem }}</Message>
    <ImportedCard
      v-for="one in read"
      :key="one.document.name"
      :slug="slug"
      :master="one"
      :taken="taken[one.document.name] ?? null"
      :busy="changes.busy.value"
      @add="add(one)"
      @take-in="takeIn(one)"
    />
  </section>
</template>

<style scoped>
.import {
  padding: var(--space-3) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
</style>
