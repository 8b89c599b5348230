<script setup lang="ts">
import MultiSelect from "primevue/multiselect";

import { useRules } from "@/api/rules";
import ChoiceField from "@/parts/fields/ChoiceField.vue";

import { type BakeOrder, SIDES, VERTEX_COLOURS } from "./bake";

/** Size and form of baked maps. */
const props = defineProps<{ slug: string; maps: boolean }>();
const bake = defineModel<BakeOrder>({ required: true });
const layouts = useRules(() => props.slug, "layout");
const BITS = [8, 16] as const;
const GREENS = [
  { value: "up" as const, label: "up (Y+)" },
  { value: "down" as const, label: "down (Y-)" },
];
const set = (change: Partial<BakeOrder>) => (bake.value = { ...bake.value, ...change });
</script>

<template>
  <fieldset>
    <legend>{{ maps ? "Maps" : "Where it has to be baked" }}</legend>
    <div class="fields">
      <span>Size</span>
      <ChoiceField
        :model-value="bake.side"
        :options="SIDES"
        label="Size in texels"
        @update:model-value="$event && set({ side: $event })"
      />
      <span>Vertex colour</span>
      <ChoiceField
        :model-value="VERTEX_COLOURS.find((one) => String(one.value) === String(bake.vertex))?.value"
        :options="VERTEX_COLOURS"
        label="Vertex colour"
        @update:model-value="$event && set({ vertex: $event })"
      />
      <template v-if="maps">
        <span>Bits a channel</span>
        <ChoiceField
          :model-value="bake.bits"
          :options="BITS"
          label="Bits a channel"
          @update:model-value="$event && set({ bits: $event })"
        />
        <span>Green of the normal map</span>
        <ChoiceField
          :model-value="bake.green"
          :options="GREENS"
          label="Green of the normal map"
          @update:model-value="$event && set({ green: $event })"
        />
        <span>Packed by</span>
        <MultiSelect
          :model-value="bake.layouts"
          :options="layouts.data.value ?? []"
          :option-label="(one) => one.title || one.name"
          option-value="name"
          placeholder="a map for each role"
          aria-label="Packed by layouts"
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
