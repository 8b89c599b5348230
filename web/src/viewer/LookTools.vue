<script setup lang="ts">
import Button from "primevue/button";
import Slider from "primevue/slider";
import ToggleButton from "primevue/togglebutton";

import { surround } from "@/app/theme";
import ChoiceField from "@/parts/fields/ChoiceField.vue";

import { bend, expose, levelBy, type Look, plain, REPEATS } from "./look";
import StepperField from "./StepperField.vue";

/** Below the picture: tiles, seam, exposure, gamma, mip level, histogram, and the grey around it. */
defineProps<{ levels: number }>();
const look = defineModel<Look>("look", { required: true });
</script>

<template>
  <div class="tools" role="toolbar" aria-label="View of the picture">
    <span class="row" title="Tiles along a side (U)"
      ><span class="soft">Tiles</span>
      <ChoiceField v-model="look.repeat" :options="REPEATS" label="Tiles along a side" />
    </span>
    <ToggleButton
      v-model="look.half"
      on-label="Seam"
      off-label="Seam"
      title="Move by half a tile, so that the seam is in the middle (N)"
    />
    <StepperField
      label="Exposure"
      :value="`${look.exposure > 0 ? '+' : ''}${look.exposure}`"
      less="Darker by a stop"
      more="Brighter by a stop"
      help="Exposure in stops ([ and ])"
      @step="(by) => expose(look, by)"
    />
    <StepperField
      label="Gamma"
      :value="String(look.gamma)"
      less="Less gamma"
      more="More gamma"
      help="Gamma (comma and full stop)"
      @step="(by) => bend(look, by > 0 ? 1.25 : 1 / 1.25)"
    />
    <StepperField
      label="Mip"
      :value="String(look.level)"
      less="Larger mip level"
      more="Smaller mip level"
      help="Mip level (Page Up and Page Down)"
      :at-low="look.level === 0"
      :at-high="look.level >= levels - 1"
      @step="(by) => levelBy(look, by, levels)"
    />
    <ToggleButton
      v-model="look.statistics"
      on-label="Histogram"
      off-label="Histogram"
      on-icon="pi pi-chart-bar"
      off-icon="pi pi-chart-bar"
      title="Histogram and clipping (S)"
    />
    <Button
      v-if="look.exposure || look.gamma !== 1 || look.level"
      text
      label="Reset"
      title="Exposure, gamma and mip level as they are (0)"
      @click="plain(look)"
    />
    <span class="row surround" title="Brightness of the grey around the picture"
      ><span class="soft">Surround</span>
      <Slider v-model="surround" :min="0" :max="255" aria-label="Brightness of the surround" />
    </span>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px var(--space-3);
  align-items: center;
  padding: 2px var(--space-2);
  background: var(--sheet);
  border-top: 1px solid var(--line);
}
.surround {
  margin-left: auto;
  flex-wrap: nowrap;
  gap: var(--space-3);
  padding-right: var(--space-2);
}
.surround :deep(.p-slider) {
  width: 90px;
}
</style>
