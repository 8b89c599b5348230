<script setup lang="ts">
import SelectButton from "primevue/selectbutton";

import type { Channel, Look } from "@/viewer/look";

/** The line above the picture: which set, which view, and how the picture is looked at. */
defineProps<{
  name: string;
  channels: { value: Channel; label: string; off: boolean; title: string }[];
  comparable: boolean;
}>();
const emit = defineEmits<{ go: [step: number] }>();
const look = defineModel<Look>("look", { required: true });
const view = defineModel<"flat" | "formats" | "surface">("view", { required: true });

const views = [
  { value: "flat", label: "Flat" },
  { value: "formats", label: "Compressed" },
  { value: "surface", label: "On a surface" },
];
const comparisons = [
  { value: "none", label: "Result" },
  { value: "wipe", label: "Wipe" },
  { value: "beside", label: "Beside" },
  { value: "difference", label: "Difference" },
];
</script>

<template>
  <header>
    <button class="plain" aria-label="Set before" @click="emit('go', -1)">
      <i class="pi pi-angle-left" />
    </button>
    <h1>{{ name }}</h1>
    <button class="plain" aria-label="Next set" @click="emit('go', 1)">
      <i class="pi pi-angle-right" />
    </button>
    <SelectButton
      v-model="view"
      :options="views"
      option-label="label"
      option-value="value"
      :allow-empty="false"
      size="small"
      aria-label="View"
    />
    <template v-if="view !== 'surface'">
      <div class="channels" role="group" aria-label="Channel">
        <button
          v-for="one in channels"
          :key="one.value"
          :disabled="one.off"
          :aria-pressed="look.channel === one.value"
          :title="one.title"
          @click="look.channel = one.value"
        >
          {{ one.label }}
        </button>
      </div>
      <SelectButton
        v-if="comparable"
        v-model="look.comparison"
        :options="comparisons"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        size="small"
        :aria-label="
          view === 'formats'
            ? 'Compare with the map'
            : look.level
              ? 'Compare with plain averaging'
              : 'Compare with the source'
        "
      />
    </template>
  </header>
</template>

<style scoped>
header {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 0 10px;
  border-bottom: 1px solid var(--line);
}
h1 {
  font-size: 15px;
}
.channels {
  display: flex;
}
.channels button {
  border: 1px solid var(--line-strong);
  border-right: 0;
  background: var(--sheet);
  color: inherit;
  padding: 2px 9px;
  cursor: pointer;
}
.channels button:last-child {
  border-right: 1px solid var(--line-strong);
}
.channels button:disabled {
  color: var(--line-strong);
  cursor: default;
}
.channels button[aria-pressed="true"] {
  background: var(--ink);
  color: var(--sheet);
}
</style>
