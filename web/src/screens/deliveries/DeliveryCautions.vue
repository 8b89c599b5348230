<script setup lang="ts">
import Message from "primevue/message";

import type { Undecided } from "@/api/types";
import { t } from "@/texts/deliveries";

/** What somebody should know before delivering. */
defineProps<{ slug: string; undecided: Undecided[]; withErrors: number }>();
const MAX_NAMES = 3;
</script>

<template>
  <Message v-if="withErrors" severity="error" :closable="false" class="caution">
    {{ t("setsWithErrors", { count: withErrors }) }}
  </Message>
  <Message v-if="undecided.length" severity="warn" :closable="false" class="caution">
    {{ t("filesInNoSet", { count: undecided.length }) }}
    <span class="mono">{{
      undecided
        .slice(0, MAX_NAMES)
        .map((one) => one.map.file)
        .join(", ")
    }}</span>{{ undecided.length > MAX_NAMES ? " …" : "" }}
    <RouterLink :to="{ name: 'habit', params: { slug } }">{{ t("sayWhatTheirNamesMean") }}</RouterLink>
  </Message>
</template>
