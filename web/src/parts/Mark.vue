<script setup lang="ts">
import type { Severity } from "@/api/types";
import { t } from "@/texts/parts";

/** The mark of a finding: shape and colour say the same, a word goes with it for those who hear the page. */
defineProps<{ severity: Severity | "fine" | "judging"; count?: number }>();
const words = { error: "error", warning: "warning", note: "note", fine: "fine", judging: t("beingJudged") };
</script>

<template>
  <span :class="['mark', severity]" :title="words[severity]">
    <svg viewBox="0 0 12 12" aria-hidden="true">
      <path v-if="severity === 'error'" d="M6 0.5 11.5 6 6 11.5 0.5 6Z" />
      <path
        v-else-if="severity === 'warning'"
        d="M6 1.5a4.5 4.5 0 1 0 0 9Z M6 1.5a4.5 4.5 0 0 1 0 9"
        class="half"
      />
      <circle v-else-if="severity === 'note'" cx="6" cy="6" r="2" />
      <path v-else-if="severity === 'fine'" d="M1.5 6.5 4.5 9.5 10.5 2.5" class="tick" />
      <circle v-else cx="6" cy="6" r="4" class="ring" />
    </svg>
    <span class="visually-hidden">{{ words[severity] }}</span>
    <span v-if="count && count > 1">{{ count }}</span>
  </span>
</template>

<style scoped>
.mark {
  display: inline-flex;
  align-items: center;
  gap: 3px;
  font-weight: 650;
}
svg {
  width: 12px;
  height: 12px;
  fill: currentColor;
  stroke: currentColor;
  stroke-width: 1.4;
}
.half {
  fill-opacity: 1;
}
.warning svg path {
  fill: none;
  stroke-width: 2;
}
.tick,
.ring {
  fill: none;
  stroke-width: 2;
}
.ring {
  stroke-dasharray: 4 3;
}
.error {
  color: var(--error);
}
.warning {
  color: var(--warning);
}
.note,
.judging {
  color: var(--ink-soft);
}
.fine {
  color: var(--accent);
}
</style>
