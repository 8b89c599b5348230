<script setup lang="ts">
import { computed } from "vue";

import type { RoleInfo, SetDetail, TextureMap } from "@/api/types";

/** What is known of the map on the bench: its file, its role, and the steps that are applied to it. */
const props = defineProps<{ set: SetDetail; map: TextureMap; roles: RoleInfo[]; mayChange: boolean }>();
const emit = defineEmits<{
  role: [role: string];
  removeStep: [index: number];
  split: [];
  addStep: [step: string];
}>();

const isNormal = computed(() => props.map.role === "normal");
const steps = computed(() =>
  isNormal.value
    ? [
        { step: "flip_green", label: "Flip green" },
        { step: "renormalise", label: "Renormalise vectors" },
        { step: "z_from_xy", label: "Rebuild blue" },
      ]
    : [{ step: "invert", label: "Invert values" }],
);

function pickStep(event: Event): void {
  const select = event.target as HTMLSelectElement;
  if (select.value) emit("addStep", select.value);
  select.value = "";
}
</script>

<template>
  <section class="panel" aria-label="This map">
    <div class="mono file" :title="map.file">
      {{ map.file }}<template v-if="map.channel"> [{{ map.channel.toUpperCase() }}]</template>
    </div>
    <div class="row">
      <label class="role">
        Role
        <select
          :value="map.role"
          :disabled="!mayChange"
          @change="emit('role', ($event.target as HTMLSelectElement).value)"
        >
          <option v-for="role in roles" :key="role.key" :value="role.key">{{ role.label }}</option>
        </select>
      </label>
      <span class="soft">{{
        map.by_hand ? "chosen by hand" : `${Math.round(map.confidence * 100)} % sure`
      }}</span>
    </div>
    <p v-if="!map.by_hand" class="soft">{{ map.why }}</p>
    <ol v-if="map.recipe.length" aria-label="Steps">
      <li v-for="(step, index) in map.recipe" :key="index">
        {{ step.label }}
        <button
          v-if="mayChange"
          class="plain"
          :aria-label="`Remove ${step.label}`"
          @click="emit('removeStep', index)"
        >
          <i class="pi pi-times" />
        </button>
      </li>
    </ol>
    <p v-else class="soft">No steps: the map is its source, untouched.</p>
    <div v-if="mayChange" class="row">
      <select aria-label="Add a step" @change="pickStep">
        <option value="">Add a step …</option>
        <option v-for="one in steps" :key="one.step" :value="one.step">{{ one.label }}</option>
      </select>
      <button v-if="set.maps.length > 1" class="plain link" @click="emit('split')">
        Split off into a new set
      </button>
    </div>
  </section>
</template>

<style scoped>
.panel {
  padding: 8px 10px;
  border-bottom: 1px solid var(--line);
  display: grid;
  gap: 6px;
  font-size: 12px;
}
.file {
  overflow-wrap: anywhere;
}
.row {
  display: flex;
  gap: 10px;
  align-items: center;
}
.role {
  display: flex;
  gap: 6px;
  align-items: center;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px;
}
ol {
  margin: 0;
  padding-left: 18px;
}
ol button {
  color: var(--ink-soft);
  margin-left: 6px;
}
p {
  margin: 0;
}
.link {
  color: var(--accent);
}
</style>
