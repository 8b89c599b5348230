<script setup lang="ts">
import Panel from "primevue/panel";

import type { Overview } from "@/api/types";
import { whenOf } from "@/app/when";
import { t } from "@/texts/overview";

/** The last changes of the project, by whom and when. */
defineProps<{ slug: string; changes: Overview["changes"] }>();
</script>

<template>
  <Panel data-group="Last changes">
    <template #header>
      <h2>{{ t("lastChanges") }}</h2>
    </template>
    <RouterLink class="target" :to="{ name: 'history', params: { slug } }">{{
      t("wholeHistory")
    }}</RouterLink>
    <p v-if="!changes.length" class="soft">{{ t("noChangesYet") }}</p>
    <ol>
      <li v-for="(one, at) in changes" :key="at">
        <span>{{ one.label }}</span>
        <span class="soft">{{ one.by ?? t("somebody") }}, {{ whenOf(one.at) }}</span>
      </li>
    </ol>
  </Panel>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  padding: 3px 0;
  border-top: 1px solid var(--line);
  overflow-wrap: anywhere;
}
</style>
