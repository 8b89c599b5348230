<script setup lang="ts">
import Button from "primevue/button";

import BrushFields from "@/parts/BrushFields.vue";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/ground";

import type { Brush } from "./brush";

/** The layer is corrected by hand: a brush that adds to what the rule leaves out, or takes away. */
defineProps<{ metres: number; active: "" | "add" | "take"; painted: boolean }>();
const brush = defineModel<Brush>({ required: true });
const emit = defineEmits<{ turn: [to: "" | "add" | "take"]; clear: [] }>();
const set = (part: Partial<Brush>) => (brush.value = { ...brush.value, ...part });
const mirrors = [
  { value: "" as const, label: t("notMirrored") },
  { value: "x" as const, label: t("mirroredX") },
  { value: "y" as const, label: t("mirroredY") },
  { value: "both" as const, label: t("mirroredBoth") },
];
</script>

<template>
  <div class="brush">
    <div class="row">
      <Button
        outlined
        :label="t('paint')"
        :title="t('paintHelp')"
        :aria-pressed="active === 'add'"
        :class="{ pressed: active === 'add' }"
        @click="emit('turn', active === 'add' ? '' : 'add')"
      />
      <Button
        outlined
        severity="secondary"
        :label="t('takeAway')"
        :title="t('takeAwayHelp')"
        :aria-pressed="active === 'take'"
        :class="{ pressed: active === 'take' }"
        @click="emit('turn', active === 'take' ? '' : 'take')"
      />
      <span class="grow" />
      <Button v-if="painted" text severity="secondary" :label="t('clearPainting')" @click="emit('clear')" />
    </div>
    <div v-if="active" class="grid">
      <BrushFields
        :brush="brush"
        :smallest="0.05"
        :largest="metres / 4"
        :radius-label="t('radiusInMetres')"
        @change="set"
      />
      <ChoiceField
        :model-value="brush.mirror"
        :options="mirrors"
        :label="t('mirror')"
        @update:model-value="set({ mirror: $event ?? '' })"
      />
      <CheckField
        :model-value="brush.wrap"
        :label="t('overTheBorder')"
        :help="t('overTheBorderHelp')"
        @update:model-value="set({ wrap: Boolean($event) })"
      />
    </div>
  </div>
</template>

<style scoped>
.brush,
.grid {
  display: grid;
  gap: var(--space-2);
}
.pressed {
  background: var(--accent-wash);
}
</style>
