<script setup lang="ts">
import SliderField from "@/parts/fields/SliderField.vue";
import { t } from "@/texts/parts";

/** What a brush is: its radius, finer where it is small; its strength; how softly it ends. */
interface Brush {
  radius: number;
  /** 0 to 1. */
  strength: number;
  /** The share of the radius over which it fades. */
  falloff: number;
}
const props = defineProps<{ brush: Brush; smallest: number; largest: number; radiusLabel: string }>();
const emit = defineEmits<{ change: [part: Partial<Brush>] }>();
const span = () => props.largest - props.smallest;
const toShare = (value: number) => Math.sqrt(Math.max(0, value - props.smallest) / span());
const fromShare = (share: number) => Number((props.smallest + share * share * span()).toPrecision(3));
</script>

<template>
  <div class="brush-fields">
    <span>{{ t("radius") }}</span>
    <span class="row">
      <SliderField
        :value="brush.radius"
        :low="smallest"
        :high="largest"
        :label="radiusLabel"
        :to-share="toShare"
        :from-share="fromShare"
        @move="emit('change', { radius: $event })"
        @keep="emit('change', { radius: $event })"
      />
      <slot />
    </span>
    <span>{{ t("strength") }}</span>
    <SliderField
      :value="brush.strength"
      :low="0.02"
      :high="1"
      :label="t('strength')"
      @move="emit('change', { strength: $event })"
      @keep="emit('change', { strength: $event })"
    />
    <span>{{ t("softEdge") }}</span>
    <SliderField
      :value="brush.falloff"
      :low="0"
      :high="1"
      :label="t('softEdge')"
      @move="emit('change', { falloff: $event })"
      @keep="emit('change', { falloff: $event })"
    />
  </div>
</template>

<style scoped>
.brush-fields {
  display: grid;
  grid-template-columns: 6rem minmax(0, 1fr);
  gap: var(--space-2);
  align-items: center;
}
</style>
