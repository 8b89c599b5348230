<script setup lang="ts">
import Button from "primevue/button";
import Message from "primevue/message";
import { computed } from "vue";

import { useScanChanges, useScans } from "@/api/scans";
import { t } from "@/texts/scans";

/** At a set: the library that it came from has a newer revision. */
const props = defineProps<{ slug: string; set: number; mayPrepare: boolean }>();
const scans = useScans(
  () => props.slug,
  () => props.set,
);
const changes = useScanChanges(() => props.slug);
const newer = computed(() => (scans.data.value ?? []).filter((one) => one.update_available));
</script>

<template>
  <Message v-for="one in newer" :key="one.id" severity="warn" :closable="false" data-test="newer-scan">
    {{
      t("setHasNewer", {
        library: one.library,
        newest: one.newest,
        title: one.title,
        revision: one.revision,
      })
    }}
    <Button
      v-if="mayPrepare"
      outlined
      size="small"
      :label="t('update')"
      :title="t('updateHelp')"
      :disabled="changes.busy.value || one.state === 'running' || one.state === 'waiting'"
      @click="changes.update(one)"
    />
  </Message>
</template>
