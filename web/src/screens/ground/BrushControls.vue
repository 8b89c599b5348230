<script setup lang="ts">
import Button from "primevue/button";

import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import SliderField from "@/parts/fields/SliderField.vue";
import { t } from "@/texts/ground";

import type { Brush } from "./brush";

/** The layer is corrected by hand: a brush that adds to what the rule leaves out, or takes away. */
const props = defineProps<{ metres: number; active: "" | "add" | "take"; painted: boolean }>();
const brush = defineModel<Brush>({ required: true });
const emit = defineEmits<{ turn: [to: "" | "add" | "take"]; clear: [] }>();
const set = (part: Partial<Brush>) => (brush.value = { ...brush.value, ...part });
const mirrors = [
  { value: "" as const, label: t("notMirrored") },
  { value: "x" as const, label: t("mirroredX") },
  { value: "y" as const, label: t("mirroredY") },
  { value: "both" as const, label: t("mirroredBoth") },
];
// The slider is finer where the brush is small.
const largest = () => props.metres / 4;
const toShare = (value: number) => Math.sqrt(value / largest());
const fromShare = (share: number) => Math.max(0.05, Math.round(share * share * largest() * 100) / 100);
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
      <span class="line"
        >{{ t("radius") }}
        <SliderField
          :value="brush.radius"
          :low="0.05"
          :high="largest()"
          :label="t('radiusInMetres')"
          :to-share="toShare"
          :from-share="fromShare"
          @move="set({ radius: $event })"
          @keep="set({ radius: $event })"
      /></span>
      <span class="line"
        >{{ t("strength") }}
        <SliderField
          :value="brush.strength"
          :low="0.02"
          :high="1"
          :label="t('strength')"
          @move="set({ strength: $event })"
          @keep="set({ strength: $event })"
      /></span>
      <span class="line"
        >{{ t("softEdge") }}
        <SliderField
          :value="brush.falloff"
          :low="0"
          :high="1"
          :label="t('softEdge')"
          @move="set({ falloff: $event })"
          @keep="set({ falloff: $event })"
      /></span>
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
.line {
  display: grid;
  grid-template-columns: 6rem minmax(0, 1fr);
  align-items: center;
}
.pressed {
  background: var(--accent-wash);
}
</style>
