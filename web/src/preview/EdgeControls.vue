<script setup lang="ts">
import Slider from "primevue/slider";

import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/preview";

/** On the edge of the surface: its shape, its environment, and the rotation of the light. */
defineProps<{ shapes: string[]; environments?: readonly string[] }>();
const shape = defineModel<string>("shape", { required: true });
const environment = defineModel<string>("environment");
const turn = defineModel<number>("turn", { required: true });
const titled = (words: readonly string[]) =>
  words.map((one) => ({ value: one, label: one.charAt(0).toUpperCase() + one.slice(1) }));
</script>

<template>
  <div class="edge row" role="toolbar" :aria-label="t('shapeAndLight')">
    <ChoiceField v-model="shape" :options="titled(shapes)" :label="t('shape')" />
    <ChoiceField
      v-if="environments"
      v-model="environment"
      :options="titled(environments)"
      :label="t('environment')"
    />
    <span class="row rotation" :title="t('rotationOfTheLightLTurns')">
      <span class="soft">{{ t("rotation") }}</span>
      <Slider v-model="turn" :min="0" :max="359" :aria-label="t('rotationOfTheLight')" />
      <span class="mono value">{{ Math.round(turn) }}°</span>
    </span>
    <slot />
  </div>
</template>

<style scoped>
.edge {
  padding: 3px var(--space-2);
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
.rotation {
  flex-wrap: nowrap;
  gap: var(--space-3);
}
.rotation :deep(.p-slider) {
  width: 84px;
}
.value {
  min-width: 2.4rem;
}
</style>
