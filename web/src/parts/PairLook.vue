<script setup lang="ts">
import Dialog from "primevue/dialog";
import SelectButton from "primevue/selectbutton";
import { computed, ref } from "vue";

import { useKeys } from "@/app/keys";
import { t } from "@/texts/parts";

/** Two states of one file large: side by side, or one in the place of the other, one key apart. */
const props = defineProps<{
  path: string;
  before: string | null;
  after: string | null;
  beforeLabel: string;
  afterLabel: string;
}>();
const emit = defineEmits<{ close: [] }>();
type Shown = "beside" | "before" | "after";
const shown = ref<Shown>("beside");
const SHOWN = computed(() => [
  { value: "beside", label: t("sideBySide") },
  { value: "before", label: props.beforeLabel },
  { value: "after", label: props.afterLabel },
]);
useKeys(t("pictures"), [
  {
    key: "B",
    does: t("theOtherOfTheTwo"),
    run: () => (shown.value = shown.value === "before" ? "after" : "before"),
  },
]);
</script>

<template>
  <Dialog
    :visible="true"
    modal
    maximizable
    :header="path"
    :style="{ width: '92vw', height: '92vh' }"
    @update:visible="emit('close')"
  >
    <SelectButton
      v-model="shown"
      :options="SHOWN"
      option-label="label"
      option-value="value"
      :allow-empty="false"
      :aria-label="t('whatIsShown')"
      :title="t('theOtherOfTheTwoB')"
    />
    <div class="both">
      <figure v-if="before && shown !== 'after'">
        <img :src="before" :alt="beforeLabel" />
        <figcaption>{{ beforeLabel }}</figcaption>
      </figure>
      <figure v-if="after && shown !== 'before'">
        <img :src="after" :alt="afterLabel" />
        <figcaption>{{ afterLabel }}</figcaption>
      </figure>
    </div>
  </Dialog>
</template>

<style scoped>
.both {
  display: flex;
  gap: var(--space-2);
  justify-content: center;
  margin-top: var(--space-2);
  padding: var(--space-2);
  background: var(--surround);
  color: var(--on-surround);
  height: calc(92vh - 9rem);
}
figure {
  margin: 0;
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  justify-items: center;
  min-width: 0;
}
img {
  max-width: 100%;
  height: 100%;
  object-fit: contain;
  image-rendering: pixelated;
}
</style>
