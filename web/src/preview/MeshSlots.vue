<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/preview";

import type { OwnMesh } from "./ownMesh";

/** The material slots of an own mesh, each with its cast; one without stands out here and on the mesh. */
const props = defineProps<{
  mesh: OwnMesh;
  assigned: Record<string, number | null>;
  choices: { id: number; name: string }[];
}>();
const emit = defineEmits<{ assign: [slot: string, cast: number | null]; away: [] }>();
const THIS_ONE = 0;
const NONE = -1;
const options = computed(() => [
  { value: NONE, label: t("noCast") },
  { value: THIS_ONE, label: t("thisMaterial") },
  ...props.choices.map((one) => ({ value: one.id, label: one.name })),
]);
</script>

<template>
  <div class="slots" role="group" :aria-label="t('materialSlotsOf', { name: mesh.name })">
    <b>{{ mesh.name }}</b>
    <div class="fields">
      <template v-for="slot in mesh.slots" :key="slot">
        <span :class="{ warning: assigned[slot] === null }">{{ slot }}</span>
        <ChoiceField
          :model-value="assigned[slot] ?? NONE"
          :options="options"
          :label="t('castOfSlot', { slot })"
          @update:model-value="emit('assign', slot, $event === NONE ? null : ($event ?? null))"
        />
      </template>
    </div>
    <Button outlined severity="secondary" :label="t('backToShapes')" @click="emit('away')" />
  </div>
</template>

<style scoped>
.slots {
  position: absolute;
  top: 8px;
  left: 8px;
  max-height: calc(100% - 16px);
  overflow: auto;
  display: grid;
  gap: var(--space-1);
  justify-items: start;
  padding: var(--space-2);
  background: var(--sheet);
}
</style>
