<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import type { SheetParameter } from "@/api/materials";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import ColourField from "@/parts/fields/ColourField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import SliderField from "@/parts/fields/SliderField.vue";
import { t } from "@/texts/materials";

import { colourOf, hexOf, sliderOf } from "./values";

/** One parameter: moving tells every step, letting go keeps it. */
const props = defineProps<{
  parameter: SheetParameter;
  value: number[];
  changed: boolean;
  inherited: boolean;
  mayChange: boolean;
}>();
const emit = defineEmits<{ move: [value: number[]]; keep: [value: number[]]; back: [] }>();
const slider = computed(() => sliderOf(props.parameter));
const choices = computed(() => props.parameter.options.map((label, value) => ({ value, label })));
const limited = (value: number) =>
  Math.max(props.parameter.low ?? -Infinity, Math.min(props.parameter.high ?? Infinity, value));
function set(value: number, at = 0): void {
  const next = [...props.value];
  next[at] = limited(value);
  emit("move", next);
  emit("keep", next);
}
</script>

<template>
  <div class="parameter" :class="{ changed }" :data-parameter="parameter.name">
    <span :title="parameter.help || undefined"
      >{{ parameter.title }}<span v-if="parameter.unit" class="soft unit">{{ parameter.unit }}</span></span
    >
    <div class="value">
      <SliderField
        v-if="parameter.kind === 'number'"
        :label="parameter.title"
        :value="value[0]!"
        :low="slider.low"
        :high="slider.high"
        :step="slider.step"
        :min="parameter.low ?? undefined"
        :max="parameter.high ?? undefined"
        :disabled="!mayChange"
        @move="emit('move', [$event])"
        @keep="emit('keep', [limited($event)])"
      />
      <ColourField
        v-else-if="parameter.kind === 'colour'"
        :label="parameter.title"
        :value="hexOf(value)"
        :disabled="!mayChange"
        @move="emit('move', colourOf($event))"
        @keep="emit('keep', colourOf($event))"
      />
      <template v-else-if="parameter.kind === 'vector'">
        <NumberField
          v-for="(_, at) in value"
          :key="at"
          :value="value[at]!"
          :label="at ? t('numberOfVector', { title: parameter.title, number: at + 1 }) : parameter.title"
          :step="0.1"
          :disabled="!mayChange"
          @change="$event !== null && set($event, at)"
        />
      </template>
      <CheckField
        v-else-if="parameter.kind === 'switch'"
        :model-value="value[0]! > 0.5"
        :label="parameter.title"
        hidden
        :disabled="!mayChange"
        @update:model-value="set(Number($event))"
      />
      <ChoiceField
        v-else
        :model-value="Math.round(value[0]!)"
        :options="choices"
        :label="parameter.title"
        :disabled="!mayChange"
        @update:model-value="set($event ?? 0)"
      />
      <Button
        v-if="changed && mayChange"
        text
        icon="pi pi-replay"
        :aria-label="t('reset2', { title: parameter.title })"
        :title="t('resetToWhatItInherits')"
        @click="emit('back')"
      />
      <span v-else-if="inherited" class="soft" :title="t('changedByACastThatThis')">{{
        t("inherited")
      }}</span>
    </div>
  </div>
</template>

<style scoped>
.parameter {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr);
  gap: 6px;
  align-items: center;
  padding-left: 5px;
  border-left: 2px solid transparent;
}
.unit {
  margin-left: 4px;
}
.changed {
  border-left-color: var(--accent);
  font-weight: 650;
}
.value {
  display: flex;
  gap: 6px;
  align-items: center;
  min-width: 0;
  font-weight: 400;
}
</style>
