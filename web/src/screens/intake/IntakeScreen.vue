<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import { computed, ref } from "vue";

import { may } from "@/api/people";
import { client, data } from "@/api/client";
import { useIntakes, useProject } from "@/api/queries";
import { useChange } from "@/api/useChange";
import { useKeys } from "@/app/keys";
import FilePick from "@/parts/FilePick.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import ScanTable from "@/screens/scans/ScanTable.vue";
import { t } from "@/texts/intake";

import BatchProgress from "./BatchProgress.vue";
import { type Dropped, filesOfDrop, filesOfInput } from "./folders";
import IntakeTable from "./IntakeTable.vue";
import WatchedFolders from "./WatchedFolders.vue";
import { type Batch, takeIn } from "./uploading";

/** Files come in: dropped or chosen, sent, sorted. */
const props = defineProps<{ slug: string }>();
const intakes = useIntakes(() => props.slug);
const project = useProject(() => props.slug);
const { change } = useChange(
  () => props.slug,
  () => [["project", props.slug, "intake"]],
);
const mayPrepare = computed(() => project.data.value?.right !== "look");
const batch = ref<Batch | null>(null);
const over = ref(false);
const problem = ref("");
const folderPick = ref<{ open: () => void }>();
let stopper: AbortController | null = null;

async function begin(name: string, files: Dropped[]): Promise<void> {
  problem.value = "";
  if (files.length === 0) {
    problem.value = t("itHoldsNoFilesDropA");
    return;
  }
  stopper = new AbortController();
  const started = takeIn(props.slug, name, files, stopper.signal);
  batch.value = started.batch;
  await started.done;
  await intakes.refetch();
}
async function onDrop(event: DragEvent): Promise<void> {
  over.value = false;
  if (!event.dataTransfer || !mayPrepare.value) return;
  const dropped = await filesOfDrop(event.dataTransfer);
  await begin(dropped.name, dropped.files);
}
async function onChosen(files: File[]): Promise<void> {
  const chosen = filesOfInput(files);
  await begin(chosen.name, chosen.files);
}

const params = (pk: number) => ({ params: { path: { slug: props.slug, pk } } });
const sort = (pk: number) =>
  change(() => data(client.POST("/api/projects/{slug}/intakes/{pk}/sort", params(pk))));
const discard = (pk: number) =>
  change(() => data(client.DELETE("/api/projects/{slug}/intakes/{pk}", params(pk))), {
    said: () => t("intakeDiscarded"),
  });
const sample = () =>
  change(() =>
    data(client.POST("/api/projects/{slug}/intakes/sample", { params: { path: { slug: props.slug } } })),
  );
useKeys(t("intake"), [{ key: "F", does: t("chooseAFolder"), run: () => folderPick.value?.open() }]);
</script>

<template>
  <div class="screen">
    <ScreenHead :title="t('intake')" :state="mayPrepare ? '' : t('youMayLookAtThisProject')">
      <template v-if="mayPrepare" #actions>
        <FilePick
          ref="folderPick"
          :label="t('chooseAFolder')"
          icon="pi pi-folder-open"
          folder
          multiple
          test="folder"
          @files="onChosen"
        />
        <FilePick :label="t('chooseFilesOrAZip')" outlined multiple test="files" @files="onChosen" />
      </template>
    </ScreenHead>
    <div class="scroll content">
      <section
        v-if="mayPrepare"
        :class="['drop', { over }]"
        @dragover.prevent="over = mayPrepare"
        @dragleave="over = false"
        @drop.prevent="onDrop"
      >
        <h2>{{ t("dropAFolderAZipOr") }}</h2>
        <p class="soft">
          {{ t("namesFoldersAndPixelsDecideWhich") }}
        </p>
        <Button
          v-if="intakes.data.value?.length === 0 && !batch"
          :label="t('takeInTheSampleFolder')"
          outlined
          @click="sample"
        />
        <Message v-if="problem" severity="error" :closable="false" role="alert">{{ problem }}</Message>
      </section>
      <BatchProgress v-if="batch" :slug="slug" :batch="batch" @stop="stopper?.abort()" />
      <WatchedFolders
        :slug="slug"
        :may-prepare="mayPrepare"
        :may-rule="may(project.data.value?.right, 'rules')"
      />
      <ScanTable :slug="slug" :may-prepare="mayPrepare" />
      <IntakeTable
        :slug="slug"
        :intakes="intakes"
        :may-prepare="mayPrepare"
        :sending="batch?.intake ?? null"
        @sort="sort"
        @discard="discard"
      />
    </div>
  </div>
</template>

<style scoped>
.content {
  flex: 1;
  padding: var(--space-4);
  display: grid;
  gap: var(--space-6);
  align-content: start;
}
.drop {
  display: grid;
  gap: var(--space-3);
  justify-items: center;
  padding: 40px var(--space-6);
  text-align: center;
  border: 2px dashed var(--line-strong);
  background: var(--sheet);
}
.drop p {
  max-width: 620px;
}
.over {
  border-color: var(--accent);
  background: var(--accent-wash);
}
</style>
