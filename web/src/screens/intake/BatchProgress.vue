<script setup lang="ts">
import Button from "primevue/button";
import ProgressBar from "primevue/progressbar";
import { computed } from "vue";

import { t } from "@/texts/intake";

import type { Batch } from "./uploading";

/** Files on their way: how many are taken, what is wrong with which, what happens next. */
const props = defineProps<{ slug: string; batch: Batch }>();
const emit = defineEmits<{ stop: [] }>();
const counts = computed(() => {
  const { uploads } = props.batch;
  const sent = uploads.reduce((sum, one) => sum + one.sent, 0);
  const bytes = uploads.reduce((sum, one) => sum + one.bytes, 0);
  return {
    taken: uploads.filter((one) => one.state === "taken").length,
    all: uploads.length,
    percent: bytes ? Math.round(100 * Math.min(1, sent / bytes)) : 0,
    said: uploads.filter((one) => one.message),
  };
});
</script>

<template>
  <section aria-live="polite" :aria-label="t('filesOnTheirWay')">
    <h2>{{ batch.name }}</h2>
    <ProgressBar :value="counts.percent" :show-value="false" :aria-label="t('sent')" />
    <p class="row">
      {{ t("ofFilesTaken", { taken: counts.taken, all: counts.all }) }}
      <template v-if="batch.state === 'sorting'">
        {{ t("theyAreBeingSortedIntoSets") }}
        <RouterLink :to="{ name: 'sets', params: { slug } }">{{ t("seeTheSets") }}</RouterLink>
      </template>
      <strong v-else-if="batch.message">{{ batch.message }}</strong>
      <Button v-if="batch.state === 'sending'" :label="t('stop')" text @click="emit('stop')" />
    </p>
    <ul>
      <li v-for="one in counts.said" :key="one.path">
        <span class="mono">{{ one.path }}</span> {{ one.message }}
      </li>
    </ul>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--space-2);
}
.p-progressbar {
  height: 6px;
}
ul {
  margin: 0;
  padding-left: 18px;
  max-height: 200px;
  overflow: auto;
}
</style>
