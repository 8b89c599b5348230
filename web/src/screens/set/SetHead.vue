<script setup lang="ts">
import Button from "primevue/button";
import SelectButton from "primevue/selectbutton";
import { computed } from "vue";

import type { SetDetail } from "@/api/types";
import Mark from "@/parts/Mark.vue";
import { stateOf } from "@/screens/sets/matrix";
import type { Channel, Look } from "@/viewer/look";

import type { View } from "./useSetPage";

/** The head of a set's page: which set, how it stands, which view, and how the picture is looked at. */
const props = defineProps<{
  set: SetDetail;
  channels: { value: Channel; label: string; off: boolean; title: string }[];
  comparable: boolean;
}>();
const emit = defineEmits<{ go: [step: number] }>();
const look = defineModel<Look>("look", { required: true });
const view = defineModel<View>("view", { required: true });

const views: { value: View; label: string; title: string }[] = [
  { value: "flat", label: "Flat", title: "The map as it is" },
  { value: "formats", label: "Compressed", title: "As formats encode it (E)" },
  { value: "surface", label: "Surface", title: "The set on a surface (V)" },
  { value: "packed", label: "Packed", title: "What the target packs, large (P)" },
];
const comparisons = [
  { value: "none", label: "Result", title: "The result alone" },
  { value: "before", label: "Before", title: "What it is compared with, alone (Space)" },
  { value: "wipe", label: "Wipe", title: "Both, with a line between them to drag" },
  { value: "beside", label: "Beside", title: "Both, side by side" },
  { value: "difference", label: "Difference", title: "How far they differ" },
];
const against = computed(() => {
  if (view.value === "formats") return "Compare with the map";
  return look.value.level ? "Compare with plain averaging" : "Compare with the source";
});
const state = computed(() => {
  const { errors, warnings, judged, maps } = props.set;
  const parts = [`${maps.length} maps`];
  if (!judged) parts.push("being checked");
  if (errors) parts.push(errors === 1 ? "1 error" : `${errors} errors`);
  if (warnings) parts.push(warnings === 1 ? "1 warning" : `${warnings} warnings`);
  return parts.join(", ");
});
</script>

<template>
  <header>
    <Button
      text
      severity="secondary"
      icon="pi pi-angle-left"
      aria-label="Previous set"
      title="Previous set (K)"
      @click="emit('go', -1)"
    />
    <Button
      text
      severity="secondary"
      icon="pi pi-angle-right"
      aria-label="Next set"
      title="Next set (J)"
      @click="emit('go', 1)"
    />
    <h1>{{ set.name }}</h1>
    <span class="soft state"><Mark :severity="stateOf(set)" /> {{ state }}</span>
    <div class="row actions">
      <SelectButton
        v-model="view"
        :options="views"
        option-value="value"
        :allow-empty="false"
        aria-label="View"
      >
        <template #option="{ option }"
          ><span :title="option.title">{{ option.label }}</span></template
        >
      </SelectButton>
      <template v-if="view === 'flat' || view === 'formats'">
        <SelectButton
          v-model="look.channel"
          :options="channels"
          option-value="value"
          option-disabled="off"
          :allow-empty="false"
          aria-label="Channel"
        >
          <template #option="{ option }"
            ><span :title="option.title">{{ option.label }}</span></template
          >
        </SelectButton>
        <SelectButton
          v-if="comparable"
          v-model="look.comparison"
          :options="comparisons"
          option-value="value"
          :allow-empty="false"
          :aria-label="against"
        >
          <template #option="{ option }"
            ><span :title="option.title">{{ option.label }}</span></template
          >
        </SelectButton>
      </template>
    </div>
  </header>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  gap: 2px var(--space-2);
  align-items: center;
  min-height: 40px;
  padding: 2px var(--space-3);
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
.state {
  flex: 1;
  min-width: 8rem;
}
</style>
