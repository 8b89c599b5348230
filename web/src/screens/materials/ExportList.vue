<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";

import { exportFile, useExports } from "@/api/exchange";
import { whenOf } from "@/app/when";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/materials";

/** What was exported, the newest first, with what each file does not hold. */
const props = defineProps<{ slug: string }>();
const exports = useExports(() => props.slug);
const sizeOf = (bytes: number) =>
  bytes < 1e6 ? `${Math.max(1, Math.round(bytes / 1e3))} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
const bakedOf = (baked: Record<string, string[]>) =>
  Object.entries(baked)
    .filter(([, inputs]) => inputs.length)
    .map(([name, inputs]) => t("inputsBaked", { name, inputs: inputs.join(", ").replaceAll("_", " ") }));
</script>

<template>
  <section :aria-label="t('exported')">
    <h2>{{ t("exported") }}</h2>
    <StateView :query="exports" :rows="3" height="4rem" :empty="!exports.data.value?.length">
      <template #empty
        ><p class="soft">{{ t("nothingYetWhatIsExportedStays") }}</p></template
      >
      <article v-for="one in exports.data.value ?? []" :key="one.id" :data-export="one.id">
        <header class="row">
          <b>{{ one.title }}</b>
          <span class="soft">{{ whenOf(one.created) }}, {{ one.by }}</span>
          <Button
            v-if="one.file"
            as="a"
            outlined
            severity="secondary"
            icon="pi pi-download"
            :label="`${one.file}, ${sizeOf(one.size)}`"
            :href="exportFile(slug, one.id)"
            download
          />
          <span v-else :class="one.state === 'failed' ? 'error' : 'soft'">{{
            one.state === "failed" ? one.message : one.state
          }}</span>
        </header>
        <Message v-if="one.lost.length" severity="warn" :closable="false">
          <p v-for="line in one.lost" :key="line" class="lost">{{ t("notInIt", { line }) }}</p>
        </Message>
        <p v-for="line in bakedOf(one.baked)" :key="line" class="soft">{{ line }}</p>
      </article>
    </StateView>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--space-2);
}
article {
  border-top: 1px solid var(--line);
  padding-top: var(--space-1);
  display: grid;
  gap: 2px;
}
</style>
