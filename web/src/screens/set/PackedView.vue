<script setup lang="ts">
import SelectButton from "primevue/selectbutton";
import { computed, ref } from "vue";

import { packedOf } from "@/api/pictures";
import { useOutputs } from "@/api/queries";
import type { SetDetail } from "@/api/types";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/set";

import { factsOf, outputShown } from "./outputs";

/** What a target packs of the set, large: all channels, or one alone. */
const props = defineProps<{ slug: string; set: SetDetail; target: string; wanted: string }>();
const SIDE = 2048;
const outputs = useOutputs(
  () => props.slug,
  () => props.set.id,
  () => props.target,
);
const shown = computed(() => outputShown(outputs.data.value ?? [], props.wanted));
const channel = ref("");
const channels = computed(() => [
  { value: "", label: t("all") },
  ...(shown.value?.channels ?? []).map((one) => ({ value: one.letter, label: one.letter.toUpperCase() })),
]);
const letter = computed(() =>
  channels.value.some((one) => one.value === channel.value) ? channel.value : "",
);
</script>

<template>
  <StateView :query="outputs" :rows="1" height="60vh" :empty="!shown">
    <template #empty
      ><p class="none">{{ t("theTargetPacksNothingOfThis") }}</p></template
    >
    <figure v-if="shown" class="packed">
      <img
        :src="packedOf(slug, set.id, target, shown, SIDE, letter)"
        :alt="letter ? t('channel', { output: shown.output, letter: letter.toUpperCase() }) : shown.output"
        data-test="packed-large"
      />
      <figcaption class="row">
        <SelectButton
          v-model="channel"
          :options="channels"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          :aria-label="t('channelOfThePackedResult')"
        />
        <span class="mono">{{ shown.path }}</span>
        <span class="soft">{{ factsOf(shown) }}</span>
      </figcaption>
    </figure>
  </StateView>
</template>

<style scoped>
.packed {
  margin: 0;
  height: 100%;
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
}
img {
  width: 100%;
  height: 100%;
  object-fit: contain;
  background: var(--surround);
}
figcaption {
  padding: var(--space-1) var(--space-2);
  background: var(--sheet);
  border-top: 1px solid var(--line);
}
.none {
  padding: 24px;
}
</style>
