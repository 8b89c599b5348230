<script setup lang="ts">
import type { RecipeStep, StepKind, StepOption } from "@/api/recipes";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import SliderField from "@/parts/fields/SliderField.vue";

/** The options of one step: a slider with its number, a choice, a switch, or another map of the set. */
defineProps<{ kind: StepKind; step: RecipeStep; maps: { value: string; label: string }[] }>();
const emit = defineEmits<{ set: [option: string, value: unknown] }>();

const words = (name: string) => name.replaceAll("_", " ").replace(/^./, (letter) => letter.toUpperCase());

/** Long ranges want fine steps near their low end, so the slider works on a curve; the number is exact. */
const CURVED = 20;
const isCurved = (one: StepOption) => (one.high ?? 1) - (one.low ?? 0) > CURVED;
function toShare(one: StepOption, value: number): number {
  const share = (value - one.low!) / (one.high! - one.low!);
  return isCurved(one) ? Math.cbrt(share) : share;
}
function fromShare(one: StepOption, share: number): number {
  const value = one.low! + (one.high! - one.low!) * (isCurved(one) ? share ** 3 : share);
  return one.kind === "whole" ? Math.round(value) : Number(value.toPrecision(3));
}
const choices = (one: StepOption) =>
  Object.entries(one.values ?? {}).map(([value, label]) => ({ value, label }));
</script>

<template>
  <div class="options fields">
    <template
      v-for="one in kind.options.filter((option) => option.kind !== 'cover' && option.kind !== 'patches')"
      :key="one.name"
    >
      <span :title="one.help">{{ words(one.name) }}</span>
      <SliderField
        v-if="one.kind === 'number' || one.kind === 'whole'"
        :label="words(one.name)"
        :value="Number(step[one.name])"
        :low="one.low!"
        :high="one.high!"
        :min="one.low!"
        :max="one.high!"
        :step="one.kind === 'whole' ? 1 : 0.01"
        :to-share="(value) => toShare(one, value)"
        :from-share="(share) => fromShare(one, share)"
        @move="emit('set', one.name, one.kind === 'whole' ? Math.round($event) : $event)"
      />
      <ChoiceField
        v-else-if="one.kind === 'choice'"
        :model-value="String(step[one.name])"
        :options="choices(one)"
        :label="words(one.name)"
        @update:model-value="emit('set', one.name, $event)"
      />
      <CheckField
        v-else-if="one.kind === 'switch'"
        :model-value="step[one.name] === true"
        :label="words(one.name)"
        hidden
        @update:model-value="emit('set', one.name, $event)"
      />
      <ChoiceField
        v-else
        :model-value="String(step[one.name])"
        :options="maps"
        :label="words(one.name)"
        @update:model-value="emit('set', one.name, $event)"
      />
    </template>
    <p class="soft help">{{ kind.help }}</p>
  </div>
</template>

<style scoped>
.options {
  padding: var(--space-1) 0 var(--space-2) var(--space-6);
}
.help {
  grid-column: 1 / -1;
}
</style>
