<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import { computed, ref } from "vue";

import { useOverview, useProject } from "@/api/queries";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/overview";

import FirstSteps from "./FirstSteps.vue";
import LastChanges from "./LastChanges.vue";
import ProjectText from "./ProjectText.vue";
import WaitingList from "./WaitingList.vue";
import { useWaiting } from "./useWaiting";

/** The first screen of a project: what waits, as numbers that lead to the filtered lists. */
const props = defineProps<{ slug: string }>();
const overview = useOverview(() => props.slug);
const project = useProject(() => props.slug);
const asText = ref(false);
const { groups, delivered, deliverable } = useWaiting(() => props.slug);
const waiting = computed(() =>
  groups.value.reduce((sum, group) => sum + group.rows.filter((row) => row.severity !== "note").length, 0),
);
const state = computed(() => {
  if (!overview.data.value) return "";
  if (!overview.data.value.sets) return t("empty");
  return waiting.value ? t("thingsToLookAt", { count: waiting.value }) : t("nothingWaitsForYou");
});
</script>

<template>
  <div class="screen">
    <ScreenHead :title="project.data.value?.name ?? t('overview')" :state="state">
      <template #actions>
        <Button
          text
          icon="pi pi-file"
          :label="t('asText')"
          :title="t('projectAsText')"
          @click="asText = true"
        />
        <Button
          as="router-link"
          outlined
          icon="pi pi-inbox"
          :label="t('takeInFiles')"
          :to="{ name: 'intake', params: { slug } }"
        />
        <Button
          as="router-link"
          icon="pi pi-send"
          :label="t('deliver')"
          :disabled="!deliverable"
          :to="{ name: 'deliveries', params: { slug } }"
        />
      </template>
    </ScreenHead>
    <ProjectText
      v-if="asText"
      v-model:shown="asText"
      :slug="slug"
      :may-change="(project.data.value?.right ?? 'look') !== 'look'"
    />
    <div class="scroll content">
      <StateView :query="overview" :rows="5" height="5rem">
        <FirstSteps v-if="!delivered" :slug="slug" :sets="overview.data.value?.sets ?? 0" />
        <Message v-else-if="!waiting" severity="success" :closable="false">
          {{ t("nothingWaitsEverySetIsDelivered") }}
        </Message>
        <div class="columns">
          <WaitingList v-for="group in groups" :key="group.title" :group="group" />
          <LastChanges :slug="slug" :changes="overview.data.value?.changes ?? []" />
        </div>
      </StateView>
    </div>
  </div>
</template>

<style scoped>
.content {
  flex: 1;
  padding: var(--space-4);
  display: grid;
  gap: var(--space-4);
  align-content: start;
}
.columns {
  columns: 310px;
  column-gap: var(--space-4);
}
.columns > :deep(*) {
  break-inside: avoid;
  margin-bottom: var(--space-4);
}
</style>
