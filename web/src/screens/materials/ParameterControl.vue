<script setup lang="ts">
import { computed } from "vue";

import type { SheetParameter } from "@/api/materials";
import { vTyped } from "@/parts/typed";

import { colourOf, hexOf, sliderOf } from "./values";

/** One parameter under the hand: moving tells every step, letting go keeps it. */
const props = defineProps<{
  parameter: SheetParameter;
  value: number[];
  changed: boolean;
  inherited: boolean;
  mayChange: boolean;
}>();
const emit = defineEmits<{ move: [value: number[]]; keep: [value: number[]]; back: [] }>();
const slider = computed(() => sliderOf(props.parameter));
const id = computed(() => `parameter-${props.parameter.name}`);
const numberOf = (event: Event) => Number((event.target as HTMLInputElement).value);

function typed(event: Event, at = 0): void {
  const field = event.target as HTMLInputElement;
  const { low, high } = props.parameter;
  if (field.value === "" || !Number.isFinite(numberOf(event))) {
    field.value = String(props.value[at]);
    return;
  }
  const limited = Math.max(low ?? -Infinity, Math.min(high ?? Infinity, numberOf(event)));
  const next = [...props.value];
  next[at] = limited;
  field.value = String(limited);
  emit("move", next);
  emit("keep", next);
}
</script>

<template>
  <div class="parameter" :class="{ changed }" :data-parameter="parameter.name">
    <label :for="id" :title="parameter.help || undefined"
      >{{ parameter.title }}<span v-if="parameter.unit" class="soft unit">{{ parameter.unit }}</span></label
    >
    <div class="value">
      <template v-if="parameter.kind === 'number'">
        <input
          :id="id"
          type="range"
          :min="slider.low"
          :max="slider.high"
          :step="slider.step"
          :value="value[0]"
          :disabled="!mayChange"
          @input="emit('move', [numberOf($event)])"
          @change="emit('keep', [numberOf($event)])"
        />
        <input
          v-typed="Number(value[0]!.toFixed(4))"
          class="number"
          :disabled="!mayChange"
          :aria-label="`${parameter.title}, number`"
          @change="typed"
        />
      </template>
      <input
        v-else-if="parameter.kind === 'colour'"
        :id="id"
        type="color"
        :value="hexOf(value)"
        :disabled="!mayChange"
        @input="emit('move', colourOf(($event.target as HTMLInputElement).value))"
        @change="emit('keep', colourOf(($event.target as HTMLInputElement).value))"
      />
      <template v-else-if="parameter.kind === 'vector'">
        <input
          v-for="at in [0, 1]"
          :id="at ? undefined : id"
          :key="at"
          v-typed="value[at]"
          class="number"
          :disabled="!mayChange"
          :aria-label="at ? `${parameter.title}, second number` : undefined"
          @change="typed($event, at)"
        />
      </template>
      <input
        v-else-if="parameter.kind === 'switch'"
        :id="id"
        type="checkbox"
        :checked="value[0]! > 0.5"
        :disabled="!mayChange"
        @change="
          emit('move', [Number(($event.target as HTMLInputElement).checked)]);
          emit('keep', [Number(($event.target as HTMLInputElement).checked)]);
        "
      />
      <select
        v-else
        :id="id"
        :disabled="!mayChange"
        :value="Math.round(value[0]!)"
        @change="
          emit('move', [numberOf($event)]);
          emit('keep', [numberOf($event)]);
        "
      >
        <option v-for="(one, at) in parameter.options" :key="one" :value="at">{{ one }}</option>
      </select>
      <button
        v-if="changed && mayChange"
        class="plain back"
        :aria-label="`Put ${parameter.title} back`"
        title="Put back"
        @click="emit('back')"
      >
        ↺
      </button>
      <span v-else-if="inherited" class="soft" title="Changed by a cast that this one derives from"
        >from above</span
      >
    </div>
  </div>
</template>

<style scoped>
.parameter {
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  gap: 6px;
  align-items: center;
  font-size: 12px;
  padding-left: 5px;
  border-left: 2px solid transparent;
}
.unit {
  margin-left: 4px;
}
.changed {
  border-left-color: var(--accent);
}
.changed label {
  font-weight: 650;
}
.value {
  display: flex;
  gap: 6px;
  align-items: center;
  min-width: 0;
}
input[type="range"] {
  flex: 1;
  min-width: 40px;
}
.number {
  width: 58px;
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 1px 4px;
  font-family: var(--mono);
}
input[type="color"] {
  width: 44px;
  height: 20px;
  padding: 0;
  border: 1px solid var(--line-strong);
  background: none;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
}
.back {
  color: var(--accent);
}
</style>
