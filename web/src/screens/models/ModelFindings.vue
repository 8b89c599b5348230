<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import type { Model } from "@/api/models";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/models";

import { nameOf } from "./wearing";

/** What is wrong with a model, errors first; each leads to its slot. */
const props = defineProps<{ model: Model }>();
const emit = defineEmits<{ show: [slot: number] }>();
const slotName = (index: number) => {
  const slot = props.model.slots_out.find((one) => one.index === index);
  return slot ? nameOf(slot) : "";
};
const shown = computed(() => props.model.findings.filter((one) => one.check !== "slot_empty"));
</script>

<template>
  <section :aria-label="t('findings')">
    <h3>{{ t("findingsCount", { count: shown.length }) }}</h3>
    <p v-if="!shown.length" class="soft small">{{ t("nothingFound") }}</p>
    <ul class="found">
      <li v-for="(one, at) in shown" :key="at">
        <Mark :severity="one.severity" />
        <span class="small"
          ><Button
            v-if="one.slot !== null"
            text
            severity="secondary"
            class="to"
            :label="slotName(one.slot)"
            @click="emit('show', one.slot)"
          />
          {{ one.message }}</span
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.found {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 2px;
}
.found li {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: var(--space-2);
  align-items: baseline;
}
.to {
  padding: 0 var(--space-1);
}
</style>
