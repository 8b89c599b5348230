<script setup lang="ts">
import type { Chain, Operation } from "@/api/materials";

/** A row as it reads from left to right: where the value comes from, then each step with what it takes. */
const props = defineProps<{ chain: Chain; operations: Operation[] }>();
const labelOf = (step: string) =>
  step === "channels"
    ? "channels"
    : (props.operations.find((one) => one.name === step)?.label ?? step).toLowerCase();
</script>

<template>
  <span class="chain">
    <span class="start mono">{{ chain.start }}</span>
    <template v-for="(link, at) in chain.steps" :key="at">
      <span class="soft" aria-hidden="true">›</span>
      <span class="link"
        >{{ labelOf(link.step) }}
        <span v-if="link.letters" class="mono">{{ link.letters }}</span>
        <span v-for="(other, index) in link.others" :key="index" class="mono other">{{ other }}</span></span
      >
    </template>
  </span>
</template>

<style scoped>
.chain {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 3px 6px;
  align-items: baseline;
}
.start {
  border-bottom: 2px solid var(--line-strong);
}
.link {
  display: inline-flex;
  gap: 4px;
  align-items: baseline;
}
.other {
  background: color-mix(in srgb, var(--ink) 7%, transparent);
  padding: 0 4px;
}
</style>
