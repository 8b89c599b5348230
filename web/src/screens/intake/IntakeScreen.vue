<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import { client, data } from "@/api/client";
import { useIntakes, useProject } from "@/api/queries";
import { useKeys } from "@/app/keys";

import { type Dropped, filesOfDrop, filesOfInput } from "./folders";
import { type Batch, takeIn } from "./uploading";

const props = defineProps<{ slug: string }>();
const intakes = useIntakes(() => props.slug);
const project = useProject(() => props.slug);
const mayPrepare = computed(() => project.data.value?.right !== "look");
const batch = ref<Batch | null>(null);
const over = ref(false);
const problem = ref("");
const folderInput = ref<HTMLInputElement>();
const filesInput = ref<HTMLInputElement>();
let stopper: AbortController | null = null;

const counts = computed(() => {
  const uploads = batch.value?.uploads ?? [];
  const sent = uploads.reduce((sum, one) => sum + one.sent, 0);
  const bytes = uploads.reduce((sum, one) => sum + one.bytes, 0);
  return {
    taken: uploads.filter((one) => one.state === "taken").length,
    all: uploads.length,
    share: bytes ? Math.min(1, sent / bytes) : 0,
    said: uploads.filter((one) => one.message),
  };
});

async function begin(name: string, files: Dropped[]): Promise<void> {
  problem.value = "";
  if (files.length === 0) {
    problem.value = "There are no files in it. Drop a folder, a zip or files with textures.";
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
  const found = await filesOfDrop(event.dataTransfer);
  await begin(found.name, found.files);
}

async function onChosen(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement;
  const found = filesOfInput(input.files!);
  input.value = "";
  await begin(found.name, found.files);
}

async function onIntake(asked: Promise<unknown>): Promise<void> {
  problem.value = "";
  try {
    await asked;
  } catch (error) {
    problem.value = (error as Error).message;
  }
  await intakes.refetch();
}
const path = (pk: number) => ({ params: { path: { slug: props.slug, pk } } });
const again = (pk: number) => onIntake(data(client.POST("/api/projects/{slug}/intakes/{pk}/sort", path(pk))));
const sample = () =>
  onIntake(
    data(client.POST("/api/projects/{slug}/intakes/sample", { params: { path: { slug: props.slug } } })),
  );
const discard = (pk: number) => onIntake(data(client.DELETE("/api/projects/{slug}/intakes/{pk}", path(pk))));

const when = (text: string) => new Date(text).toLocaleString([], { dateStyle: "medium", timeStyle: "short" });
const states: Record<string, string> = {
  open: "not finished",
  sorting: "being sorted",
  sorted: "sorted",
  failed: "sorting failed",
};
useKeys("Intake", [{ key: "F", does: "Choose a folder", run: () => folderInput.value?.click() }]);
</script>

<template>
  <div class="screen scroll">
    <section
      :class="['drop', { over }]"
      @dragover.prevent="over = mayPrepare"
      @dragleave="over = false"
      @drop.prevent="onDrop"
    >
      <template v-if="mayPrepare">
        <h1>Drop a folder, a zip or loose files here</h1>
        <p class="soft">
          Names, folders and pixels decide which files make a set. What cannot be decided is listed with the
          likeliest answers. PNG, TGA, JPEG, TIFF, OpenEXR, HDR, WebP, DDS and KTX2 are read; sources are
          never changed.
        </p>
        <div class="choose">
          <Button label="Choose a folder" @click="folderInput?.click()" />
          <Button label="Choose files or a zip" outlined @click="filesInput?.click()" />
          <Button
            v-if="intakes.data.value?.length === 0 && !batch"
            label="Take in the sample folder"
            outlined
            @click="sample"
          />
        </div>
        <input ref="folderInput" data-test="folder" type="file" webkitdirectory hidden @change="onChosen" />
        <input ref="filesInput" data-test="files" type="file" multiple hidden @change="onChosen" />
      </template>
      <h1 v-else>You may look at this project, but not take files in.</h1>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    </section>

    <section v-if="batch" class="batch" aria-live="polite">
      <h2>{{ batch.name }}</h2>
      <div class="track"><span :style="{ width: `${counts.share * 100}%` }" /></div>
      <p>
        {{ counts.taken }} of {{ counts.all }} files taken.
        <template v-if="batch.state === 'sorting'">
          They are being sorted into sets.
          <RouterLink :to="{ name: 'sets', params: { slug } }">See the sets</RouterLink>
        </template>
        <strong v-else-if="batch.message">{{ batch.message }}</strong>
        <Button v-if="batch.state === 'sending'" label="Stop" size="small" text @click="stopper?.abort()" />
      </p>
      <ul class="said">
        <li v-for="one in counts.said" :key="one.path">
          <span class="mono">{{ one.path }}</span> {{ one.message }}
        </li>
      </ul>
    </section>

    <section class="past">
      <h2>Taken in so far</h2>
      <p v-if="intakes.data.value?.some((one) => one.state === 'sorted')">
        <RouterLink :to="{ name: 'habit', params: { slug } }">What the file names mean</RouterLink>
        <span class="soft">: each suffix with its role, to confirm or change for all its files at once.</span>
      </p>
      <p v-if="!intakes.data.value?.length" class="soft">Nothing yet.</p>
      <table v-else>
        <thead>
          <tr>
            <th>Name</th>
            <th>When</th>
            <th>Files</th>
            <th>Not readable</th>
            <th>State</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in intakes.data.value" :key="one.id">
            <td>{{ one.name }}</td>
            <td class="soft">{{ when(one.created) }}</td>
            <td class="number">{{ one.files }}</td>
            <td class="number">{{ one.refused || "–" }}</td>
            <td>
              {{ states[one.state] ?? one.state }}
              <template
                v-if="
                  mayPrepare && (one.state === 'failed' || one.state === 'open') && batch?.intake !== one.id
                "
              >
                <button class="plain link" @click="again(one.id)">Sort now</button>
                <button class="plain link" @click="discard(one.id)">Discard</button>
              </template>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.screen {
  padding: 24px;
  gap: 24px;
}
.drop {
  border: 1px dashed var(--line-strong);
  background: var(--sheet);
  padding: 40px 32px;
  text-align: center;
  flex: none;
}
.drop.over {
  border: 2px solid var(--accent);
  background: var(--accent-wash);
}
.drop p {
  max-width: 62ch;
  margin: 8px auto 16px;
}
.choose {
  display: flex;
  gap: 10px;
  justify-content: center;
}
.problem {
  color: var(--error);
}
.track {
  height: 6px;
  background: var(--line);
  margin: 8px 0;
}
.track span {
  display: block;
  height: 100%;
  background: var(--accent);
}
.said {
  max-height: 160px;
  overflow: auto;
  padding-left: 16px;
  color: var(--warning);
}
table {
  width: 100%;
  border-collapse: collapse;
  margin-top: 8px;
}
th,
td {
  text-align: left;
  padding: 6px 12px 6px 0;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
}
th {
  color: var(--ink-soft);
}
.link {
  color: var(--accent);
  margin-left: 8px;
}
.number {
  font-variant-numeric: tabular-nums;
}
</style>
