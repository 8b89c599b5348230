<script setup lang="ts">
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, ref } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useModelChanges, useModels } from "@/api/models";
import { useProject } from "@/api/queries";
import { useKeys } from "@/app/keys";
import FilePick from "@/parts/FilePick.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { type Dropped, filesOfDrop } from "@/screens/intake/folders";
import { t } from "@/texts/models";

import ModelList from "./ModelList.vue";
import ModelView from "./ModelView.vue";

/** Models: a picture of each at the left, one of them with its slots beside it. */
const props = defineProps<{ slug: string }>();
const route = useRoute();
const router = useRouter();
const project = useProject(() => props.slug);
const models = useModels(() => props.slug);
const changes = useModelChanges(() => props.slug);
const mayChange = computed(() => (project.data.value?.right ?? "look") !== "look");
const rows = computed(() => models.data.value ?? []);
const id = computed(() => Number(route.params.id) || (rows.value[0]?.id ?? 0));
const empty = computed(() => rows.value.reduce((sum, one) => sum + one.empty, 0));
const state = computed(() =>
  rows.value.length
    ? [
        t("nModels", { count: rows.value.length }),
        empty.value ? t("slotsEmpty", { count: empty.value }) : t("everySlotFilled"),
      ].join(", ")
    : "",
);
const go = (to: number) => void router.push({ name: "models", params: { slug: props.slug, id: to || "" } });
const over = ref(false);

async function take(files: Dropped[]): Promise<void> {
  if (!files.length || !mayChange.value) return;
  const made = await changes.take(files);
  if (made) go(made.id);
}
const picked = (files: File[]) =>
  void take(files.map((file) => ({ path: file.webkitRelativePath || file.name, file })));
async function drop(event: DragEvent): Promise<void> {
  over.value = false;
  if (event.dataTransfer) await take((await filesOfDrop(event.dataTransfer)).files);
}
function step(by: number): void {
  const at = rows.value.findIndex((one) => one.id === id.value);
  const next = rows.value[(at + by + rows.value.length) % Math.max(1, rows.value.length)];
  if (next) go(next.id);
}
useKeys(t("models"), [
  { key: "J", does: t("nextModel"), run: () => step(1) },
  { key: "K", does: t("previousModel"), run: () => step(-1) },
]);
</script>

<template>
  <div
    class="screen"
    :class="{ over }"
    @dragover.prevent="over = mayChange"
    @dragleave.self="over = false"
    @drop.prevent="drop"
  >
    <ScreenHead :title="t('models')" :state="state">
      <template #actions>
        <RouterLink class="soft target" :to="{ name: 'glossary', hash: '#slot' }">{{
          t("whatASlotIs")
        }}</RouterLink>
        <FilePick
          v-if="mayChange"
          :label="t('takeInAModel')"
          icon="pi pi-plus"
          multiple
          accept=".glb,.gltf,.obj,.usd,.usda,.usdc,.usdz,.bin,.mtl,.png,.jpg,.jpeg,.tga"
          test="model"
          @files="picked"
        />
      </template>
    </ScreenHead>
    <StateView :query="models" :rows="4" height="5rem" :empty="!rows.length">
      <template #empty>
        <div class="nothing">
          <h2>{{ t("noModelYet") }}</h2>
          <p>{{ t("dropAModelHere") }}</p>
          <p class="soft">{{ t("whatIsRead") }}</p>
        </div>
      </template>
      <Splitter state-key="models" state-storage="local" class="split">
        <SplitterPanel :size="15" :min-size="10" class="scroll">
          <ModelList :slug="slug" :rows="rows" :chosen="id" @choose="go" />
        </SplitterPanel>
        <SplitterPanel :size="85" :min-size="40" class="view">
          <ModelView v-if="id" :id="id" :key="id" :slug="slug" :may-change="mayChange" @gone="go(0)" />
        </SplitterPanel>
      </Splitter>
    </StateView>
  </div>
</template>

<style scoped>
.split {
  flex: 1;
  min-height: 0;
}
.view {
  min-height: 0;
  min-width: 0;
  overflow: hidden;
  display: grid;
}
.nothing {
  padding: var(--space-6);
  display: grid;
  gap: var(--space-2);
  max-width: 44rem;
}
.over {
  outline: 2px solid var(--accent);
  outline-offset: -2px;
}
</style>
