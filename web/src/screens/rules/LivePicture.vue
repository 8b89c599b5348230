<script setup lang="ts">
import Message from "primevue/message";

import { t } from "@/texts/rules";

/** What comes out of an output that is being edited, or why nothing does. */
defineProps<{ address: string | null; problem: string }>();
</script>

<template>
  <figure>
    <Message v-if="problem" severity="error" :closable="false">{{ problem }}</Message>
    <img v-else-if="address" :src="address" :alt="t('resultOfAllChannels')" data-test="live" />
    <span v-else class="empty" />
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  width: 260px;
}
img,
.empty {
  display: block;
  width: 260px;
  height: 260px;
  object-fit: contain;
  background: var(--surround);
}
</style>
