<script setup lang="ts">
import Button from "primevue/button";
import Slider from "primevue/slider";
import ToggleButton from "primevue/togglebutton";

import { surround } from "@/app/theme";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { t } from "@/texts/viewer";

import { bend, expose, levelBy, type Look, plain, REPEATS } from "./look";
import StepperField from "./StepperField.vue";

/** Below the picture: tiles, seam, exposure, gamma, mip level, histogram, and the grey around it. */
defineProps<{ levels: number }>();
const look = defineModel<Look>("look", { required: true });
</script>

<template>
  <div class="tools" role="toolbar" :aria-label="t('viewOfThePicture')">
    <span class="row" :title="t('tilesAlongASideU')"
      ><span class="soft">{{ t("tiles") }}</span>
      <ChoiceField v-model="look.repeat" :options="REPEATS" :label="t('tilesAlongASide')" />
    </span>
    <ToggleButton
      v-model="look.half"
      :on-label="t('seam')"
      :off-label="t('seam')"
      :title="t('moveByHalfATileSo')"
    />
    <StepperField
      :label="t('exposure')"
      :value="`${look.exposure > 0 ? '+' : ''}${look.exposure}`"
      :less="t('darkerByAStop')"
      :more="t('brighterByAStop')"
      :help="t('exposureInStopsAnd')"
      @step="(by) => expose(look, by)"
    />
    <StepperField
      :label="t('gamma')"
      :value="String(look.gamma)"
      :less="t('lessGamma')"
      :more="t('moreGamma')"
      :help="t('gammaCommaAndFullStop')"
      @step="(by) => bend(look, by > 0 ? 1.25 : 1 / 1.25)"
    />
    <StepperField
      :label="t('mip')"
      :value="String(look.level)"
      :less="t('largerMipLevel')"
      :more="t('smallerMipLevel')"
      :help="t('mipLevelPageUpAndPage')"
      :at-low="look.level === 0"
      :at-high="look.level >= levels - 1"
      @step="(by) => levelBy(look, by, levels)"
    />
    <ToggleButton
      v-model="look.statistics"
      :on-label="t('histogram')"
      :off-label="t('histogram')"
      on-icon="pi pi-chart-bar"
      off-icon="pi pi-chart-bar"
      :title="t('histogramAndClippingS')"
    />
    <Button
      v-if="look.exposure || look.gamma !== 1 || look.level"
      text
      :label="t('reset')"
      :title="t('exposureGammaAndMipLevelAs')"
      @click="plain(look)"
    />
    <span class="row surround" :title="t('brightnessOfTheGreyAroundThe')"
      ><span class="soft">{{ t("surround") }}</span>
      <Slider v-model="surround" :min="0" :max="255" :aria-label="t('brightnessOfTheSurround')" />
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
