<script setup lang="ts">
import Accordion from "primevue/accordion";
import AccordionContent from "primevue/accordioncontent";
import AccordionHeader from "primevue/accordionheader";
import AccordionPanel from "primevue/accordionpanel";
import Message from "primevue/message";
import Tag from "primevue/tag";
import { computed } from "vue";

import { pictureOf } from "@/api/pictures";
import type { usePlan } from "@/api/queries";
import { memoryWords } from "@/api/rules";
import type { TextureSet } from "@/api/types";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/deliveries";

import PlannedFiles from "./PlannedFiles.vue";
import { bySet, countsOf } from "./plan";

/** What will be written, set by set, folded; each with its picture and how many files are new or changed. */
const props = defineProps<{ slug: string; plan: ReturnType<typeof usePlan>; sets: TextureSet[] }>();
const told = computed(() => props.plan.data.value);
const groups = computed(() => bySet(told.value?.files ?? []));
const over = computed(
  () => (told.value?.budget ?? null) !== null && told.value!.memory > told.value!.budget!,
);
const memory = computed(() => {
  const { memory: bytes = 0, budget = null } = told.value ?? {};
  if (budget === null) return t("memoryOfAll", { memory: memoryWords(bytes) });
  const words = { memory: memoryWords(bytes), budget: memoryWords(budget) };
  return over.value ? t("memoryOverBudget", words) : t("memoryOfBudget", words);
});
function printOf(name: string): string | null {
  const maps = props.sets.find((one) => one.name === name)?.maps ?? [];
  const map = maps.find((one) => one.role === "base_color" && one.in_use) ?? maps[0];
  return map ? pictureOf(props.slug, map, { side: 192 }) : null;
}
</script>

<template>
  <StateView :query="plan" :rows="8" height="3rem">
    <Message
      v-for="problem in plan.data.value?.problems ?? []"
      :key="problem"
      severity="error"
      :closable="false"
      role="alert"
    >
      {{ t("leftOut", { problem }) }}
    </Message>
    <p v-if="plan.data.value" :class="over ? 'error' : 'soft'" data-test="memory">{{ memory }}</p>
    <Accordion :key="groups.length" multiple :value="groups.length === 1 ? [groups[0]!.key] : []">
      <AccordionPanel
        v-for="group in groups"
        :key="group.key"
        :value="group.key"
        :data-plan="group.key"
        :data-status="group.status"
      >
        <AccordionHeader>
          <span class="row head">
            <img v-if="group.kind === 'set' && printOf(group.set)" :src="printOf(group.set)!" alt="" />
            <b>{{ group.set }}</b>
            <Tag
              v-if="group.kind !== 'set'"
              severity="secondary"
              :value="group.kind === 'cast' ? t('cast') : t('model')"
            />
            <span class="soft">{{ countsOf(group.files) }}</span>
          </span>
        </AccordionHeader>
        <AccordionContent><PlannedFiles :files="group.files" /></AccordionContent>
      </AccordionPanel>
    </Accordion>
    <p v-if="plan.data.value?.carried.length" class="soft" :title="plan.data.value.carried.join(', ')">
      {{ t("otherSetsStay", { count: plan.data.value.carried.length }) }}
    </p>
    <section v-if="plan.data.value?.orphaned.length" data-status="orphaned">
      <h3>
        {{ t("inTheLastDeliveryNotIn") }}
        <span class="soft">{{ plan.data.value.orphaned.length }}</span>
      </h3>
      <ul class="mono">
        <li v-for="path in plan.data.value.orphaned" :key="path">{{ path }}</li>
      </ul>
    </section>
  </StateView>
</template>

<style scoped>
.head {
  min-height: 36px;
}
img {
  width: 36px;
  height: 36px;
  object-fit: cover;
  background: var(--surround);
}
ul {
  overflow-wrap: anywhere;
  padding-left: 18px;
}
</style>
