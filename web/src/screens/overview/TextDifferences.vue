<script setup lang="ts">
import { computed } from "vue";

import type { TextCompared } from "@/api/projectText";
import { valueWords } from "@/parts/valueWords";
import { t } from "@/texts/overview";

/** What differs in one document: the first places, from what the studio has to what the folder says. */
const props = defineProps<{ one: TextCompared }>();
const MOST = 6;
const some = computed(() => props.one.differences.slice(0, MOST));
</script>

<template>
  <p v-if="!one.here" class="soft">{{ t("onlyInTheStudio") }}</p>
  <p v-else-if="!one.studio" class="soft">{{ t("onlyInTheFolder") }}</p>
  <dl v-else>
    <template v-for="place in some" :key="place.path">
      <dt class="soft">{{ place.path }}</dt>
      <dd>
        <span class="soft">{{ valueWords(place.before) }}</span> → {{ valueWords(place.after) }}
      </dd>
    </template>
    <dd v-if="one.differences.length > MOST" class="soft">
      {{ t("andMorePlaces", { count: one.differences.length - MOST }) }}
    </dd>
  </dl>
</template>

<style scoped>
p {
  margin: 0;
}
dl {
  display: grid;
  grid-template-columns: minmax(8rem, max-content) 1fr;
  gap: 2px var(--space-4);
  margin: 0;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
