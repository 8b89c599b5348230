<script setup lang="ts">
import type { RecipeStep, StepKind, StepOption } from "@/api/recipes";

/** The options of one step: a slider with its number, a choice, a switch, or another map of the set. */
defineProps<{ kind: StepKind; step: RecipeStep; maps: { key: string; label: string }[] }>();
const emit = defineEmits<{ set: [option: string, value: unknown] }>();

const words = (name: string) => name.replaceAll("_", " ");
const target = (event: Event) => event.target as HTMLInputElement;

/** Long ranges want fine steps near their low end, so the slider works on a curve; the number box is exact. */
const CURVED = 20;
const curved = (one: StepOption) => (one.high ?? 1) - (one.low ?? 0) > CURVED;
function toSlider(one: StepOption, value: number): number {
  const share = (value - one.low!) / (one.high! - one.low!);
  return curved(one) ? Math.cbrt(share) : share;
}
function fromSlider(one: StepOption, share: number): number {
  const value = one.low! + (one.high! - one.low!) * (curved(one) ? share ** 3 : share);
  return one.kind === "whole" ? Math.round(value) : Number(value.toPrecision(3));
}
function typed(one: StepOption, event: Event): void {
  const value = Number(target(event).value);
  if (!Number.isFinite(value)) return;
  const held = Math.max(one.low!, Math.min(one.high!, value));
  emit("set", one.name, one.kind === "whole" ? Math.round(held) : held);
}
</script>

<template>
  <div class="options">
    <template v-for="one in kind.options" :key="one.name">
      <label :title="one.help" :for="`${step.step}-${one.name}`">{{ words(one.name) }}</label>
      <span v-if="one.kind === 'number' || one.kind === 'whole'" class="number">
        <input
          type="range"
          min="0"
          max="1"
          step="0.001"
          :aria-label="`${words(one.name)}, slider`"
          :value="toSlider(one, Number(step[one.name]))"
          @input="emit('set', one.name, fromSlider(one, Number(target($event).value)))"
        />
        <input
          :id="`${step.step}-${one.name}`"
          type="number"
          :min="one.low!"
          :max="one.high!"
          step="any"
          :value="step[one.name]"
          @change="typed(one, $event)"
        />
      </span>
      <select
        v-else-if="one.kind === 'choice'"
        :id="`${step.step}-${one.name}`"
        :value="step[one.name]"
        @change="emit('set', one.name, target($event).value)"
      >
        <option v-for="(label, key) in one.values" :key="key" :value="key">{{ label }}</option>
      </select>
      <input
        v-else-if="one.kind === 'switch'"
        :id="`${step.step}-${one.name}`"
        type="checkbox"
        :checked="step[one.name] === true"
        @change="emit('set', one.name, target($event).checked)"
      />
      <select
        v-else
        :id="`${step.step}-${one.name}`"
        :value="step[one.name]"
        @change="emit('set', one.name, target($event).value)"
      >
        <option v-for="other in maps" :key="other.key" :value="other.key">{{ other.label }}</option>
      </select>
    </template>
    <p class="soft help">{{ kind.help }}</p>
  </div>
</template>

<style scoped>
.options {
  display: grid;
  grid-template-columns: minmax(72px, auto) minmax(0, 1fr);
  gap: 4px 8px;
  align-items: center;
  padding: 4px 0 6px 22px;
}
.number {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 64px;
  gap: 6px;
}
input[type="range"] {
  width: 100%;
  accent-color: var(--accent);
}
input[type="number"],
select {
  min-width: 0;
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 1px 3px;
  font-variant-numeric: tabular-nums;
}
input[type="checkbox"] {
  justify-self: start;
}
.help {
  grid-column: 1 / -1;
  margin: 2px 0 0;
}
</style>
