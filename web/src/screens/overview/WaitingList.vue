<script setup lang="ts">
import Panel from "primevue/panel";

import Mark from "@/parts/Mark.vue";

import type { WaitingGroup } from "./useWaiting";

/** What waits at one place: each line a number that leads to the filtered list. */
defineProps<{ group: WaitingGroup }>();
</script>

<template>
  <Panel :data-group="group.title">
    <template #header>
      <h2>{{ group.title }}</h2>
    </template>
    <p v-if="!group.rows.length" class="soft">{{ group.nothing }}</p>
    <ul v-else>
      <li v-for="row in group.rows" :key="row.key" :data-waiting="row.key">
        <RouterLink :to="row.to">
          <Mark :severity="row.severity" />
          <b class="count">{{ row.count }}</b>
          <span>{{ row.label }}</span>
        </RouterLink>
      </li>
    </ul>
  </Panel>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 21rem;
  overflow: auto;
}
a {
  display: grid;
  grid-template-columns: 16px minmax(2.2rem, max-content) minmax(0, 1fr);
  gap: var(--space-2);
  align-items: center;
  min-height: 28px;
  color: inherit;
  text-decoration: none;
  border-top: 1px solid var(--line);
}
a:hover {
  background: var(--accent-wash);
}
.count {
  text-align: right;
  font-variant-numeric: tabular-nums;
}
</style>
