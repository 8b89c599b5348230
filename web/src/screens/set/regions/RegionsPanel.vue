<script setup lang="ts">
import Button from "primevue/button";
import { ref } from "vue";

import { useAtlasChanges } from "@/api/atlases";
import type { SetDetail, TextureMap } from "@/api/types";
import { t } from "@/texts/atlas";

import RegionsDialog from "./RegionsDialog.vue";

/** Which regions a set's maps have, and the way into sets of their own. */
const props = defineProps<{ slug: string; set: SetDetail; map: TextureMap; mayChange: boolean }>();
const { cut, busy } = useAtlasChanges(() => props.slug);
const editing = ref(false);
const sized = (metres: number[] | undefined) => (metres ? `, ${metres[0]} × ${metres[1]} m` : "");
</script>

<template>
  <div class="regions">
    <p v-if="!set.regions.length" class="small soft">{{ t("noRegions") }}</p>
    <ul v-else class="small">
      <li v-for="one in set.regions" :key="one.name">
        {{ one.name }}<span class="soft">{{ sized(one.metres) }}</span>
      </li>
    </ul>
    <div class="row wrap">
      <Button
        outlined
        severity="secondary"
        :label="t('edit')"
        :title="t('regionsHelp')"
        @click="editing = true"
      />
      <Button
        v-if="mayChange && set.regions.length"
        outlined
        severity="secondary"
        :label="t('cutAll')"
        :title="t('cutHelp')"
        :loading="busy"
        @click="cut(set)"
      />
    </div>
    <RegionsDialog
      v-if="editing"
      v-model:shown="editing"
      :slug="slug"
      :set="set"
      :map="map"
      :may-change="mayChange"
    />
  </div>
</template>

<style scoped>
.regions {
  display: grid;
  gap: var(--space-2);
}
ul {
  margin: 0;
  padding-left: var(--space-4);
  max-height: 12rem;
  overflow-y: auto;
}
</style>
