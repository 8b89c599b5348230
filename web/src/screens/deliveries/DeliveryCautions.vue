<script setup lang="ts">
import Message from "primevue/message";

import type { Undecided } from "@/api/types";

/** What somebody should know before delivering. */
defineProps<{ slug: string; undecided: Undecided[]; withErrors: number }>();
const MAX_NAMES = 3;
</script>

<template>
  <Message v-if="withErrors" severity="error" :closable="false" class="caution">
    {{ withErrors }} of the sets {{ withErrors === 1 ? "has" : "have" }} errors. They are delivered as they
    are.
  </Message>
  <Message v-if="undecided.length" severity="warn" :closable="false" class="caution">
    {{ undecided.length }} {{ undecided.length === 1 ? "file is" : "files are" }} in no set and will not be
    delivered:
    <span class="mono">{{
      undecided
        .slice(0, MAX_NAMES)
        .map((one) => one.map.file)
        .join(", ")
    }}</span>{{ undecided.length > MAX_NAMES ? " …" : "" }}
    <RouterLink :to="{ name: 'habit', params: { slug } }">Say what their names mean</RouterLink>
  </Message>
</template>
