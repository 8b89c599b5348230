<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import { type Ground, type GroundChange, groundFile, type GroundShape, useGroundKinds } from "@/api/ground";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import SliderField from "@/parts/fields/SliderField.vue";
import TextField from "@/parts/fields/TextField.vue";
import FilePick from "@/parts/FilePick.vue";
import { t } from "@/texts/ground";

/** The patch itself: its size, its shape, and how it is delivered. */
const props = defineProps<{ slug: string; ground: Ground; mayChange: boolean }>();
const emit = defineEmits<{
  change: [part: (now: Ground) => GroundChange, what: string];
  height: [file: File];
  remove: [];
}>();
const shape = computed(() => props.ground.shape);
const isMade = computed(() => shape.value.kind === "made");
const set = (part: Partial<GroundShape>) =>
  emit("change", (now) => ({ shape: { ...now.shape, ...part } }), t("shapeChanged"));
const kinds = useGroundKinds();
const inTexels = (sizes: readonly number[] = []) =>
  sizes.map((value) => ({ value, label: t("texels", { side: value }) }));
const sides = computed(() => inTexels(kinds.value?.sides));
const fars = computed(() => inTexels(kinds.value?.far_sides));
const eaches = [
  { value: 4, label: t("fourAFile") },
  { value: 3, label: t("threeAFile") },
];
const depths = [8, 16].map((value) => ({ value, label: t("bits", { bits: value }) }));
const made = [
  { name: "feature", label: t("feature"), help: t("featureHelp"), low: 1, high: 512, first: 32 },
  { name: "rough", label: t("rough"), help: t("roughHelp"), low: 0, high: 1, first: 0.5 },
  { name: "creeks", label: t("creeks"), help: t("creeksHelp"), low: 0, high: 1, first: 0 },
] as const;
</script>

<template>
  <div class="fields">
    <span>{{ t("name") }}</span>
    <TextField
      :value="ground.name"
      :label="t('nameOfThePatch')"
      :maxlength="100"
      :disabled="!mayChange"
      @change="
        $event.trim() && emit('change', () => ({ name: $event }), t('patchRenamed', { name: $event.trim() }))
      "
    />
    <span>{{ t("side") }}</span>
    <NumberField
      :value="ground.metres"
      :label="t('metresASide')"
      unit="m"
      :min="1"
      :max="16384"
      :digits="1"
      :disabled="!mayChange"
      @change="emit('change', () => ({ metres: $event ?? ground.metres }), t('sizeChanged'))"
    />
    <span :title="t('rasterHelp')">{{ t("raster") }}</span>
    <ChoiceField
      :model-value="ground.side"
      :options="sides"
      :label="t('raster')"
      :disabled="!mayChange"
      @update:model-value="emit('change', () => ({ side: $event ?? ground.side }), t('rasterChanged'))"
    />
    <h3>{{ t("shape") }}</h3>
    <span class="row">
      <FilePick
        v-if="mayChange"
        outlined
        :label="t('heightMap')"
        accept=".png,.tif,.tiff,.exr,.tga"
        test="height"
        @files="emit('height', $event[0]!)"
      />
      <span v-if="!isMade" class="small soft">{{ shape.map }}</span>
      <Button
        v-if="mayChange && !isMade"
        text
        severity="secondary"
        :label="t('makeItAgain')"
        @click="set({ kind: 'made' })"
      />
    </span>
    <span>{{ t("lowest") }}</span>
    <NumberField
      :value="shape.low"
      :label="t('lowestPlace')"
      unit="m"
      :digits="2"
      :disabled="!mayChange"
      @change="set({ low: $event ?? 0 })"
    />
    <span>{{ t("highest") }}</span>
    <NumberField
      :value="shape.high"
      :label="t('highestPlace')"
      unit="m"
      :digits="2"
      :disabled="!mayChange"
      @change="set({ high: $event ?? 1 })"
    />
    <template v-if="isMade">
      <template v-for="one in made" :key="one.name">
        <span :title="one.help">{{ one.label }}</span>
        <SliderField
          :value="shape[one.name] ?? one.first"
          :low="one.low"
          :high="one.high"
          :label="one.label"
          :disabled="!mayChange"
          @keep="set({ [one.name]: $event })"
        />
      </template>
      <span>{{ t("seed") }}</span>
      <NumberField
        :value="shape.seed ?? 1"
        :label="t('seedOfTheLand')"
        :min="0"
        :max="65535"
        :digits="0"
        :disabled="!mayChange"
        @change="set({ seed: $event ?? 1 })"
      />
    </template>
    <h3>{{ t("delivered") }}</h3>
    <span />
    <span>{{ t("weightMaps") }}</span>
    <span class="pair">
      <ChoiceField
        :model-value="ground.each"
        :options="eaches"
        :label="t('layersAFile')"
        :disabled="!mayChange"
        @update:model-value="emit('change', () => ({ each: $event ?? 4 }), t('deliveryChanged'))"
      />
      <ChoiceField
        :model-value="ground.bits"
        :options="depths"
        :label="t('bitsOfWeights')"
        :disabled="!mayChange"
        @update:model-value="emit('change', () => ({ bits: $event ?? 8 }), t('deliveryChanged'))"
      />
    </span>
    <span :title="t('farHelp')">{{ t("far") }}</span>
    <ChoiceField
      :model-value="ground.far"
      :options="fars"
      :label="t('farMaps')"
      :disabled="!mayChange"
      @update:model-value="emit('change', () => ({ far: $event ?? ground.far }), t('deliveryChanged'))"
    />
  </div>
  <div class="row">
    <Button as="a" text :href="groundFile(slug, ground.id)" download :label="t('asADocument')" />
    <span class="grow" />
    <Button v-if="mayChange" text severity="danger" :label="t('deletePatch')" @click="emit('remove')" />
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 8rem minmax(0, 1fr);
  gap: var(--space-2);
  align-items: center;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: var(--space-2);
}
h3 {
  font-size: 1em;
  margin: var(--space-2) 0 0;
}
</style>
