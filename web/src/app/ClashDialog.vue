<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";

import { clash } from "@/api/conflicts";
import { t } from "@/texts/app";

/** Somebody else changed the same thing meanwhile: both states, and which shall hold. */
</script>

<template>
  <Dialog
    :visible="clash !== null"
    modal
    :closable="false"
    :header="t('wasChangedBySomebodyElse', { about: clash?.about ?? '' })"
    :style="{ width: '34rem' }"
    data-test="clash"
  >
    <dl>
      <dt>{{ t("theirVersion") }}</dt>
      <dd>{{ clash?.theirs }}</dd>
      <dt>{{ t("yourVersion") }}</dt>
      <dd>{{ clash?.mine }}</dd>
    </dl>
    <p class="soft">{{ t("eitherWayWhoeverMadeTheOther") }}</p>
    <template #footer>
      <Button :label="t('keepTheirVersion')" severity="secondary" autofocus @click="clash?.decide(false)" />
      <Button :label="t('useMyVersion')" @click="clash?.decide(true)" />
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
