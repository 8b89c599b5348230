<script setup lang="ts">
import { type BudgetFile, errorWords, memoryWords } from "@/api/rules";
import { t } from "@/texts/rules";

/** Advice on each file of a set: the cheapest format within the limits, why, and what the chosen one gets wrong. */
defineProps<{ files: BudgetFile[] }>();
</script>

<template>
  <section class="advice" :aria-label="t('advice')">
    <article v-for="one in files" :key="one.path" :data-output="one.output">
      <header>
        <b>{{ one.output }}</b>
        <span class="soft mono">{{ one.path }}</span>
        <span class="soft">{{ one.width }} × {{ one.height }}, {{ one.format ?? t("notCompressed") }}</span>
      </header>
      <p v-if="!one.advice" class="soft">{{ t("notMeasuredYet") }}</p>
      <template v-else>
        <p>
          <template v-if="one.advice.advised"
            >{{ t("advised") }} <b>{{ one.advice.advised }}</b><template v-if="one.advice.spared">
              ({{
                one.advice.spared > 0
                  ? t("less", { memory: memoryWords(one.advice.spared) })
                  : t("more", { memory: memoryWords(-one.advice.spared) })
              }})</template
            ></template
          ><template v-else>{{ t("noAllowedFormatStaysWithinThe") }}</template>
          <span class="soft reason">{{ one.advice.reason }}</span>
        </p>
        <p v-for="caution in one.advice.cautions" :key="caution.caution" class="warning">
          {{ caution.message }}
          <span class="soft">{{ +caution.cost.toPrecision(3) }} {{ caution.unit }}</span>
        </p>
        <p class="soft">
          {{
            t("atHalfTheResolutionWithAn", {
              memory: memoryWords(one.halved),
              error: errorWords(one.advice.halving)[1],
            })
          }}
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
