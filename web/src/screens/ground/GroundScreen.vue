<script setup lang="ts">
import Button from "primevue/button";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import { useGroundChanges, useGrounds } from "@/api/ground";
import { useProject } from "@/api/queries";
import { useKeys } from "@/app/keys";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/ground";

import GroundList from "./GroundList.vue";
import GroundView from "./GroundView.vue";

/** Ground: the patches at the left, one of them as a landscape with its layers beside it. */
const props = defineProps<{ slug: string }>();
const route = useRoute();
const router = useRouter();
const project = useProject(() => props.slug);
const patches = useGrounds(() => props.slug);
const changes = useGroundChanges(() => props.slug);
const mayChange = computed(() => (project.data.value?.right ?? "look") !== "look");
const rows = computed(() => patches.data.value ?? []);
const id = computed(() => Number(route.params.id) || (rows.value[0]?.id ?? 0));
const empty = computed(() => rows.value.reduce((sum, one) => sum + one.empty, 0));
const state = computed(() =>
  rows.value.length
    ? [
        t("nPatches", { count: rows.value.length }),
        empty.value ? t("layersEmpty", { count: empty.value }) : t("everyLayerWears"),
      ].join(", ")
    : "",
);
const go = (to: number) => void router.push({ name: "ground", params: { slug: props.slug, id: to || "" } });
async function add(): Promise<void> {
  const made = await changes.add(t("newGround"));
  if (made) go(made.id);
}
function step(by: number): void {
  const at = rows.value.findIndex((one) => one.id === id.value);
  const next = rows.value[(at + by + rows.value.length) % Math.max(1, rows.value.length)];
  if (next) go(next.id);
}
useKeys(t("ground"), [
  { key: "J", does: t("nextPatch"), run: () => step(1) },
  { key: "K", does: t("previousPatch"), run: () => step(-1) },
]);
</script>

<template>
  <div class="screen">
    <ScreenHead :title="t('ground')" :state="state">
      <template #actions>
        <Button v-if="mayChange" icon="pi pi-plus" :label="t('addGround')" @click="add" />
      </template>
    </ScreenHead>
    <StateView :query="patches" :rows="4" height="5rem" :empty="!rows.length">
      <template #empty>
        <div class="nothing">
          <h2>{{ t("noGroundYet") }}</h2>
          <p>{{ t("whatGroundIs") }}</p>
        </div>
      </template>
      <Splitter state-key="ground" state-storage="local" class="split">
        <SplitterPanel :size="12" :min-size="8" class="scroll">
          <GroundList :slug="slug" :rows="rows" :chosen="id" @choose="go" />
        </SplitterPanel>
        <SplitterPanel :size="88" :min-size="40" class="view">
          <GroundView v-if="id" :id="id" :key="id" :slug="slug" :may-change="mayChange" @gone="go(0)" />
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
</style>
