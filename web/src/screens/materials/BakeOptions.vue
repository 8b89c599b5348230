<script setup lang="ts">
import MultiSelect from "primevue/multiselect";

import { useRules } from "@/api/rules";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/materials";

import { type BakeOrder, SIDES, VERTEX_COLOURS } from "./bake";

/** Size and form of baked maps. */
const props = defineProps<{ slug: string; maps: boolean }>();
const bake = defineModel<BakeOrder>({ required: true });
const layouts = useRules(() => props.slug, "layout");
const BITS = [8, 16] as const;
const GREENS = [
  { value: "up" as const, label: t("upY") },
  { value: "down" as const, label: t("downY") },
];
const set = (change: Partial<BakeOrder>) => (bake.value = { ...bake.value, ...change });
</script>

<template>
  <fieldset>
    <legend>{{ maps ? t("maps") : t("whereItHasToBeBaked") }}</legend>
    <div class="fields">
      <span>{{ t("size") }}</span>
      <ChoiceField
        :model-value="bake.side"
        :options="SIDES"
        :label="t('sizeInTexels')"
        @update:model-value="$event && set({ side: $event })"
      />
      <span>{{ t("vertexColour") }}</span>
      <ChoiceField
        :model-value="VERTEX_COLOURS.find((one) => String(one.value) === String(bake.vertex))?.value"
        :options="VERTEX_COLOURS"
        :label="t('vertexColour')"
        @update:model-value="$event && set({ vertex: $event })"
      />
      <template v-if="maps">
        <span>{{ t("bitsAChannel") }}</span>
        <ChoiceField
          :model-value="bake.bits"
          :options="BITS"
          :label="t('bitsAChannel')"
          @update:model-value="$event && set({ bits: $event })"
        />
        <span>{{ t("greenOfTheNormalMap") }}</span>
        <ChoiceField
          :model-value="bake.green"
          :options="GREENS"
          :label="t('greenOfTheNormalMap')"
          @update:model-value="$event && set({ green: $event })"
        />
        <span>{{ t("packedBy") }}</span>
        <MultiSelect
          :model-value="bake.layouts"
          :options="layouts.data.value ?? []"
          :option-label="(one) => one.title || one.name"
          option-value="name"
          :placeholder="t('aMapForEachRole')"
          :aria-label="t('packedByLayouts')"
          @update:model-value="set({ layouts: $event })"
        />
      </template>
    </div>
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 0;
  border-top: 1px solid var(--line);
  padding: var(--space-1) 0 0;
  margin: 0;
}
legend {
  font-weight: 650;
  padding: 0 8px 0 0;
}
</style>
