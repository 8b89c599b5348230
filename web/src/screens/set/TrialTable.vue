<script setup lang="ts">
import Button from "primevue/button";
import Tag from "primevue/tag";
import { computed } from "vue";

import { errorWords, type MapTrial, memoryWords } from "@/api/rules";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/set";

/** What each format costs and spoils; a row shows it beside the map. The cheapest within the limit is marked. */
const props = defineProps<{ trials: MapTrial[]; kind: string; shown: string }>();
const emit = defineEmits<{ show: [trial: MapTrial] }>();
const HEADS: Record<string, string[]> = {
  colour: ["ΔE", "99 %", "PSNR"],
  normal: ["mean", "99 %"],
  mask: ["step", "99 %", "PSNR"],
};
const heads = computed(() => HEADS[props.kind] ?? HEADS.mask!);
const cheapest = computed(() => props.trials.find((one) => one.within)?.format ?? null);
</script>

<template>
  <table class="table">
    <thead>
      <tr>
        <th scope="col">{{ t("format") }}</th>
        <th scope="col" class="number">{{ t("memory") }}</th>
        <th scope="col" class="number">{{ t("file") }}</th>
        <th v-for="head in heads" :key="head" scope="col" class="number">{{ head }}</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="one in trials"
        :key="one.format"
        :data-format="one.format"
        :class="{ now: shown === one.format, soft: !one.within }"
      >
        <th scope="row">
          <Button
            text
            severity="secondary"
            :aria-pressed="shown === one.format"
            :title="one.within ? t('withinTheLimitShowIt') : t('overTheLimitShowIt')"
            @click="emit('show', one)"
          >
            <Mark :severity="one.within ? 'fine' : 'warning'" /> {{ one.label }}
          </Button>
          <Tag v-if="one.format === cheapest" :value="t('cheapestWithinTheLimit')" />
        </th>
        <td class="number">{{ memoryWords(one.memory) }}</td>
        <td class="number">{{ one.size === null ? "" : memoryWords(one.size) }}</td>
        <td v-for="(word, index) in errorWords(one.error)" :key="index" class="number error-of">
          {{ word }}
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
}
.now {
  background: var(--accent-wash);
  outline: 1px solid var(--accent);
}
.error-of {
  white-space: nowrap;
}
th :deep(.p-button) {
  padding-left: 0;
}
</style>
