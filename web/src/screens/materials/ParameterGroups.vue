<script setup lang="ts">
import { computed } from "vue";

import type { Sheet } from "@/api/materials";
import { t } from "@/texts/materials";

import ParameterControl from "./ParameterControl.vue";

/** A cast's parameters: those that it changes first, then the others by group. */
const props = defineProps<{
  sheet: Sheet;
  values: Record<string, number[]>;
  changed: string[];
  inherited: string[];
  search: string;
  mayChange: boolean;
}>();
const emit = defineEmits<{
  move: [name: string, value: number[]];
  keep: [name: string, value: number[]];
  back: [name: string];
}>();
const groups = computed(() => {
  const words = props.search.toLowerCase().split(/\s+/).filter(Boolean);
  const wanted = props.sheet.parameters.filter((one) =>
    words.every((word) => `${one.title} ${one.name} ${one.group} ${one.help}`.toLowerCase().includes(word)),
  );
  const own = wanted.filter((one) => props.changed.includes(one.name));
  const rest = wanted.filter((one) => !props.changed.includes(one.name));
  const titles = [...new Set(rest.map((one) => one.group))];
  return [
    { title: t("changedHere"), parameters: own },
    ...titles.map((title) => ({
      title: title || t("other"),
      parameters: rest.filter((one) => one.group === title),
    })),
  ].filter((group) => group.parameters.length);
});
</script>

<template>
  <p v-if="!groups.length" class="soft">{{ t("noParameterHasThatName") }}</p>
  <div class="groups">
    <section v-for="group in groups" :key="group.title" :aria-label="group.title" :data-group="group.title">
      <h3>{{ group.title }}</h3>
      <ParameterControl
        v-for="one in group.parameters"
        :key="one.name"
        :parameter="one"
        :value="values[one.name] ?? one.default"
        :changed="changed.includes(one.name)"
        :inherited="inherited.includes(one.name)"
        :may-change="mayChange"
        @move="emit('move', one.name, $event)"
        @keep="emit('keep', one.name, $event)"
        @back="emit('back', one.name)"
      />
    </section>
  </div>
</template>

<style scoped>
.groups {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(310px, 1fr));
  gap: var(--space-3) var(--space-6);
  align-items: start;
}
section {
  display: grid;
  gap: 2px;
}
</style>
