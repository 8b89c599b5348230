<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";

import { clash } from "@/api/conflicts";

/** Somebody else changed the same thing meanwhile: both states, and which shall hold. */
</script>

<template>
  <Dialog
    :visible="clash !== null"
    modal
    :closable="false"
    :header="`${clash?.about ?? ''} was changed meanwhile`"
    :style="{ width: '34rem' }"
    data-test="clash"
  >
    <dl>
      <dt>There now</dt>
      <dd>{{ clash?.theirs }}</dd>
      <dt>Your change</dt>
      <dd>{{ clash?.mine }}</dd>
    </dl>
    <p class="soft">Whatever you choose, the other state stays in the history of whoever made it.</p>
    <template #footer>
      <Button label="Leave it as it is there" severity="secondary" autofocus @click="clash?.decide(false)" />
      <Button label="Use my change" @click="clash?.decide(true)" />
    </template>
  </Dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 8px 16px;
  margin: 0 0 12px;
}
dt {
  color: var(--ink-soft);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
p {
  margin: 0;
}
</style>
