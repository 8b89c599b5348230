<script setup lang="ts">
import Slider from "primevue/slider";

import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/preview";

import { titled } from "./choices";
import type { Environment, Shape } from "./stage";

/** On the edge of the surface: its shape, its environment, and the rotation of the light. */
defineProps<{ shapes: readonly Shape[]; environments?: readonly Environment[] }>();
const shape = defineModel<Shape>("shape", { required: true });
const environment = defineModel<Environment>("environment");
const turn = defineModel<number>("turn", { required: true });
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
