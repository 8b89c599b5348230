<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import { computed, ref } from "vue";

import { bringText, compareText, type FolderText, readFolder, type Side, textZip } from "@/api/projectText";
import { keys } from "@/api/queries";
import { useChange } from "@/api/useChange";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import FilePick from "@/parts/FilePick.vue";
import { t } from "@/texts/overview";

import TextDifferences from "./TextDifferences.vue";

/** The project as a folder of documents: taken along, compared with one that people changed, and brought in again. */
const props = defineProps<{ slug: string; mayChange: boolean }>();
const shown = defineModel<boolean>("shown", { required: true });
const { change, busy, notices } = useChange(
  () => props.slug,
  () => [keys.project(props.slug)],
);
const text = ref<FolderText | null>(null);
const found = ref<Awaited<ReturnType<typeof compareText>>>([]);
const take = ref<Record<string, Side>>({});

const BOTH = "changed on both sides";
const HERE = "changed here";
const groups = computed(() => [
  { title: t("changedOnBothSides"), rows: found.value.filter((one) => one.state === BOTH), asks: true },
  { title: t("changedInTheFolder"), rows: found.value.filter((one) => one.state === HERE), asks: false },
  {
    title: t("changedInTheStudio"),
    rows: found.value.filter((one) => one.state !== BOTH && one.state !== HERE),
    asks: false,
  },
]);
const open = computed(() => groups.value[0]!.rows.filter((one) => !take.value[one.key]).length);
const coming = computed(
  () =>
    groups.value[1]!.rows.length +
    groups.value[0]!.rows.filter((one) => take.value[one.key] === "here").length,
);
const SIDES = [
  { value: "here" as const, label: t("takeTheFolders") },
  { value: "studio" as const, label: t("keepTheStudios") },
];

async function look(read: () => Promise<FolderText>): Promise<void> {
  try {
    const given = await read();
    found.value = await compareText(props.slug, given);
    [text.value, take.value] = [given, {}];
  } catch (error) {
    notices.failed(error);
  }
}
async function bring(): Promise<void> {
  const made = await change(() => bringText(props.slug, text.value!, take.value), {
    said: (told) => (told.conflicts.length ? null : t("documentsBrought", { count: told.applied.length })),
    undoable: true,
  });
  if (!made) return;
  // What the studio changed while this was looked at is told, and asked about.
  const given = text.value!;
  if (made.conflicts.length) await look(() => Promise.resolve(given));
  else [text.value, found.value] = [null, []];
}
</script>

<template>
  <Dialog
    v-model:visible="shown"
    modal
    :header="t('projectAsText')"
    :style="{ width: 'min(94vw, 56rem)' }"
    data-test="project-text"
  >
    <p class="soft">{{ t("projectAsTextHelp") }}</p>
    <div class="row">
      <Button
        as="a"
        outlined
        icon="pi pi-download"
        :label="t('downloadTheFolder')"
        :href="textZip(slug)"
        download
      />
      <FilePick
        outlined
        folder
        icon="pi pi-folder-open"
        :label="t('compareAFolder')"
        test="text-folder"
        @files="(files) => look(() => readFolder(files))"
      />
    </div>
    <template v-if="text">
      <p v-if="!found.length" role="status">{{ t("folderAndStudioAreTheSame") }}</p>
      <template v-for="group in groups" :key="group.title">
        <section v-if="group.rows.length" :aria-label="group.title">
          <h2>{{ group.title }} ({{ group.rows.length }})</h2>
          <ul>
            <li v-for="one in group.rows" :key="one.key" :data-text="one.key">
              <div class="row">
                <span class="mono">{{ one.path }}</span>
                <span class="grow" />
                <ChoiceField
                  v-if="group.asks && mayChange"
                  :model-value="take[one.key] ?? null"
                  :options="SIDES"
                  :label="t('whichHolds', { name: one.path })"
                  :placeholder="t('choose')"
                  @update:model-value="take[one.key] = $event!"
                />
              </div>
              <TextDifferences :one="one" />
            </li>
          </ul>
        </section>
      </template>
      <p v-if="groups[2]!.rows.length" class="soft">{{ t("downloadAgainAfterwards") }}</p>
    </template>
    <template v-if="text && mayChange && found.length" #footer>
      <span v-if="open" class="soft">{{ t("documentsWaitForAChoice", { count: open }) }}</span>
      <Button
        :label="t('bringInDocuments', { count: coming })"
        :disabled="busy || open > 0 || (!coming && !groups[0]!.rows.length)"
        @click="bring"
      />
    </template>
  </Dialog>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  border-top: 1px solid var(--line);
  padding: var(--space-1) 0;
}
h2 {
  font-size: inherit;
  margin: var(--space-3) 0 var(--space-1);
}
</style>
