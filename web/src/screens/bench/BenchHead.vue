<script setup lang="ts">
import SelectButton from "primevue/selectbutton";

import { surround } from "@/app/theme";
import type { Channel, Comparison } from "@/viewer/renderer";

/** The line above the picture: which set, which view, which channel, compared how. */
defineProps<{
  name: string;
  channels: { value: Channel; label: string; off: boolean }[];
  hasSteps: boolean;
}>();
const emit = defineEmits<{ go: [step: number] }>();
const view = defineModel<"flat" | "surface">("view", { required: true });
const channel = defineModel<Channel>("channel", { required: true });
const comparison = defineModel<Comparison>("comparison", { required: true });
const repeat = defineModel<number>("repeat", { required: true });

const views = [
  { value: "flat", label: "Flat" },
  { value: "surface", label: "On a surface" },
];
const comparisons = [
  { value: "none", label: "Result" },
  { value: "wipe", label: "Wipe" },
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
    <template v-if="view === 'flat'">
      <div class="channels" role="group" aria-label="Channel">
        <button
          v-for="one in channels"
          :key="one.value"
          :disabled="one.off"
          :aria-pressed="channel === one.value"
          @click="channel = one.value"
        >
          {{ one.label }}
        </button>
      </div>
      <SelectButton
        v-if="hasSteps"
        v-model="comparison"
        :options="comparisons"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        size="small"
        aria-label="Compare with the source"
      />
      <label class="soft"
        ><input type="checkbox" :checked="repeat > 1" @change="repeat = repeat > 1 ? 1 : 2" /> 2 × 2</label
      >
    </template>
    <label class="soft surround"
      >Surround
      <input v-model.number="surround" type="range" min="0" max="255" aria-label="Brightness of the surround"
    /></label>
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
.surround {
  margin-left: auto;
  display: flex;
  align-items: center;
  gap: 6px;
}
.surround input {
  width: 90px;
  accent-color: var(--ink-soft);
}
</style>
