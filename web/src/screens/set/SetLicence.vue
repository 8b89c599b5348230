<script setup lang="ts">
import { ref } from "vue";

import type { SetDetail } from "@/api/types";
import LicenceInput from "@/parts/LicenceInput.vue";

/** Under which licence the set came: one line, opened to be changed. */
defineProps<{ slug: string; set: SetDetail; mayChange: boolean }>();
const open = ref(false);
</script>

<template>
  <section class="terms" aria-label="Licence">
    <button class="plain" :aria-expanded="open" :disabled="!mayChange" @click="open = !open">
      <span class="soft">Licence</span>
      <span class="mono">{{ set.licence || "unknown" }}</span>
      <span v-if="set.credit" class="soft credit">{{ set.credit }}</span>
    </button>
    <LicenceInput v-if="open" :slug="slug" :sets="[set.id]" @said="open = false" />
  </section>
</template>

<style scoped>
.terms {
  padding: 6px 10px;
  border-bottom: 1px solid var(--line);
  display: grid;
  gap: 6px;
}
.terms > button {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.credit {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
