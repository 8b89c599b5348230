<script setup lang="ts">
import { computed } from "vue";

import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/sets";

import type { Row } from "./matrix";

/** How a set stands: errors, warnings, or fit to deliver; and its worst finding in a line. */
const props = defineProps<{ row: Row; compact?: boolean }>();
const verdict = computed(() => {
  const { set, state } = props.row;
  if (state === "judging") return t("beingChecked");
  if (state === "error") return t("n1Error", { count: set.errors, errors: set.errors });
  if (state === "warning") return t("n1Warning", { count: set.warnings, warnings: set.warnings });
  return t("canBeDelivered");
});
</script>

<template>
  <div class="end" role="gridcell">
    <div class="verdict"><Mark :severity="row.state" /> {{ verdict }}</div>
    <div
      v-if="row.set.judged && row.set.headline && !compact"
      class="headline soft"
      :title="row.set.headline"
    >
      {{ row.set.headline }}
    </div>
  </div>
</template>

<style scoped>
.end {
  padding: 0 var(--space-3) 0 10px;
  align-self: center;
  font-size: 0.923rem;
  min-width: 0;
}
.verdict {
  display: flex;
  gap: 6px;
  align-items: center;
  font-weight: 650;
}
.headline {
  display: -webkit-box;
  -webkit-line-clamp: 3;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
</style>
