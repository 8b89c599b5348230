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
    :header="`${clash?.about ?? ''} was changed by somebody else`"
    :style="{ width: '34rem' }"
    data-test="clash"
  >
    <dl>
      <dt>Their version</dt>
      <dd>{{ clash?.theirs }}</dd>
      <dt>Your version</dt>
      <dd>{{ clash?.mine }}</dd>
    </dl>
    <p class="soft">Either way, whoever made the other version can still undo and redo it.</p>
    <template #footer>
      <Button label="Keep their version" severity="secondary" autofocus @click="clash?.decide(false)" />
      <Button label="Use my version" @click="clash?.decide(true)" />
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
