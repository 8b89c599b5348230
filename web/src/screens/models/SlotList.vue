<script setup lang="ts">
import { nextTick, ref, watch } from "vue";

import type { Model, ModelSlot, SlotProposals, Wears } from "@/api/models";
import { t } from "@/texts/models";

import SlotCard from "./SlotCard.vue";
import { choicesFor } from "./wearing";

/** The slots of a model, each with what it wears; the one in hand shows more. */
const props = defineProps<{
  slug: string;
  model: Model;
  proposals: SlotProposals[];
  casts: { id: number; name: string }[];
  sets: { id: number; name: string }[];
  mayChange: boolean;
  hidden: string[];
}>();
const emit = defineEmits<{
  assign: [key: string, worn: Wears | null];
  solo: [index: number];
  fill: [index: number];
  call: [key: string, title: string];
  split: [key: string, part: string];
  join: [key: string, part: string];
}>();
const slot = defineModel<number>("slot", { required: true });
const list = ref<HTMLElement>();
const proposed = (one: ModelSlot) => props.proposals.find((some) => some.key === one.key)?.proposals ?? [];
const nameAt = (index: number) => props.model.slots_out.find((one) => one.index === index)?.name ?? "";
const findingsOf = (one: ModelSlot) => props.model.findings.filter((some) => some.slot === one.index);
watch(slot, async () => {
  await nextTick();
  list.value?.querySelector("[data-chosen=true]")?.scrollIntoView({ block: "nearest" });
});
</script>

<template>
  <ul ref="list" class="slots" :aria-label="t('slotsOfModel', { name: model.name })">
    <SlotCard
      v-for="one in model.slots_out"
      :key="one.key"
      :slot-of="one"
      :options="choicesFor(proposed(one), casts, sets)"
      :proposal="proposed(one)[0] ?? null"
      :shared="one.shared_with.map(nameAt)"
      :findings="findingsOf(one)"
      :chosen="one.index === slot"
      :may-change="mayChange"
      @choose="slot = one.index === slot ? -1 : one.index"
      @assign="emit('assign', one.key, $event)"
      @fill="emit('fill', one.index)"
      @solo="emit('solo', one.index)"
      @call="emit('call', one.key, $event)"
      @split="emit('split', one.key, $event)"
      @join="one.split_from !== null && emit('join', one.split_from, one.parts[0] ?? '')"
    />
  </ul>
</template>

<style scoped>
.slots {
  list-style: none;
  margin: var(--space-2) 0;
  padding: 0;
  display: grid;
  gap: var(--space-1);
}
</style>
