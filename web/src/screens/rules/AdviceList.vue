<script setup lang="ts">
import { type BudgetFile, errorWords, memoryWords } from "@/api/rules";

/** Advice on each file of a set: the cheapest format within the limits, why, and what the chosen one gets wrong. */
defineProps<{ files: BudgetFile[] }>();
</script>

<template>
  <section class="advice" aria-label="Advice">
    <article v-for="one in files" :key="one.path" :data-output="one.output">
      <header>
        <b>{{ one.output }}</b>
        <span class="soft mono">{{ one.path }}</span>
        <span class="soft">{{ one.width }} × {{ one.height }}, {{ one.format ?? "not compressed" }}</span>
      </header>
      <p v-if="!one.advice" class="soft">Not measured yet.</p>
      <template v-else>
        <p>
          <template v-if="one.advice.advised"
            >Advised: <b>{{ one.advice.advised }}</b><template v-if="one.advice.spared">
              ({{
                one.advice.spared > 0
                  ? `${memoryWords(one.advice.spared)} less`
                  : `${memoryWords(-one.advice.spared)} more`
              }})</template
            ></template
          ><template v-else>No allowed format stays within the error limit.</template>
          <span class="soft reason">{{ one.advice.reason }}</span>
        </p>
        <p v-for="caution in one.advice.cautions" :key="caution.caution" class="warning">
          {{ caution.message }}
          <span class="soft">{{ +caution.cost.toPrecision(3) }} {{ caution.unit }}</span>
        </p>
        <p class="soft">
          At half the resolution: {{ memoryWords(one.halved) }}, with an error of
          {{ errorWords(one.advice.halving)[1] }} at the 99th percentile.
        </p>
      </template>
    </article>
  </section>
</template>

<style scoped>
.advice {
  width: 100%;
}
article {
  border-top: 1px solid var(--line);
  padding: var(--space-2) 0;
}
header {
  display: flex;
  gap: var(--space-3);
}
.reason {
  margin-left: var(--space-2);
}
</style>
