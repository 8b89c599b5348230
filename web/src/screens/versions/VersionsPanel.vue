<script setup lang="ts">
import { useVersionChanges } from "@/api/watched";
import FilePick from "@/parts/FilePick.vue";
import ScanNotice from "@/screens/scans/ScanNotice.vue";
import { t } from "@/texts/versions";

import OldDeliveries from "./OldDeliveries.vue";
import VersionList from "./VersionList.vue";

/** Of a set's files: what they were before, a new version by hand, the deliveries that hold a former one. */
const props = defineProps<{ slug: string; set: number; map: number; mayChange: boolean }>();
const changes = useVersionChanges(() => props.slug);
function replace(files: File[]): void {
  if (files[0]) void changes.replace(props.map, files[0]);
}
</script>

<template>
  <div class="versions">
    <ScanNotice :slug="slug" :set="set" :may-prepare="mayChange" />
    <OldDeliveries :slug="slug" :set="set" />
    <FilePick
      v-if="mayChange"
      outlined
      :label="t('replaceTheFile')"
      :title="t('replaceHelp')"
      test="replace"
      @files="replace"
    />
    <VersionList :slug="slug" :of="{ set }" :may-change="mayChange" />
  </div>
</template>

<style scoped>
.versions {
  display: grid;
  gap: var(--space-2);
}
</style>
