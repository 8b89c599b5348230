<script setup lang="ts">
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable from "primevue/datatable";
import Message from "primevue/message";
import { computed, ref, watch } from "vue";

import { type Fit, type Listed, previewOf, useScanChanges, useScans } from "@/api/scans";
import { t } from "@/texts/scans";

/** A surface of a library: its terms, and what each resolution gives and costs. */
const props = defineProps<{
  slug: string;
  library: string;
  surface: Listed;
  standard: number | null;
  mayPrepare: boolean;
  changes: ReturnType<typeof useScanChanges>;
}>();
const KIB = 1024;
const scans = useScans(() => props.slug);
const scan = computed(() => scans.data.value?.find((one) => one.id === props.surface.taken) ?? null);
const chosen = ref<number | null>(null);
watch(
  () => props.surface.id,
  () => (chosen.value = null),
);
/** What somebody picked, else what is enough. */
const fit = computed<Fit | undefined>(
  () =>
    props.surface.fits.find((one) => one.pixels === chosen.value) ??
    props.surface.fits.find((one) => one.is_enough),
);
const against = (one: Fit) => {
  if (one.is_enough) return t("isEnough");
  return one.wasted > 0 ? t("wastes", { share: Math.round(one.wasted * 100) }) : t("blurred");
};
const rounded = (value: number) => (value < 10 ? value.toFixed(2) : String(Math.round(value)));
const memory = (bytes: number) =>
  bytes < KIB * KIB ? `${Math.round(bytes / KIB)} KiB` : `${(bytes / KIB / KIB).toFixed(1)} MiB`;
async function take(): Promise<void> {
  if (!fit.value) return;
  if (scan.value) await props.changes.update(scan.value, fit.value.pixels);
  else await props.changes.take(props.library, props.surface, fit.value.pixels);
}
</script>

<template>
  <div class="detail">
    <img :src="previewOf(slug, library, surface, 768)" :alt="surface.title" />
    <h2>{{ surface.title }}</h2>
    <p class="soft">
      {{ t("surfaceSize", { metres: surface.metres, revision: surface.revision }) }}. {{ t("licence") }}:
      {{ surface.licence }}
      <template v-if="surface.credit">{{ t("by", { credit: surface.credit }) }}</template>
    </p>
    <Message v-if="surface.problem" :severity="surface.refused ? 'error' : 'warn'" :closable="false">{{
      surface.problem
    }}</Message>
    <DataTable
      :value="surface.fits"
      data-key="pixels"
      selection-mode="single"
      :selection="fit"
      :aria-label="t('resolution')"
      @update:selection="chosen = ($event as Fit | null)?.pixels ?? null"
    >
      <Column :header="t('resolution')">
        <template #body="{ data }: { data: Fit }">{{ data.pixels }} px</template>
      </Column>
      <Column :header="t('density')">
        <template #body="{ data }: { data: Fit }">{{ rounded(data.density) }}</template>
      </Column>
      <Column :header="t('perPixel')">
        <template #body="{ data }: { data: Fit }">{{ rounded(data.per_pixel) }}</template>
      </Column>
      <Column :header="t('sharpFrom')">
        <template #body="{ data }: { data: Fit }">{{
          t("metresFar", { metres: rounded(data.sharp_from) })
        }}</template>
      </Column>
      <Column :header="t('memory')">
        <template #body="{ data }: { data: Fit }"
          ><span :title="t('memoryHelp')">{{ memory(data.memory) }}</span></template
        >
      </Column>
      <Column :header="t('comparedToEnough')">
        <template #body="{ data }: { data: Fit }">{{ against(data) }}</template>
      </Column>
    </DataTable>
    <p v-if="standard" class="soft">{{ t("houseStandard", { density: standard }) }}</p>
    <span v-if="mayPrepare && fit">
      <Button
        :label="scan ? t('changeTo', { pixels: fit.pixels }) : t('takeIn', { pixels: fit.pixels })"
        :disabled="surface.refused || changes.busy.value || (scan !== null && scan.pixels === fit.pixels)"
        @click="take"
      />
    </span>
  </div>
</template>

<style scoped>
.detail {
  display: grid;
  gap: var(--space-3);
  grid-template-columns: minmax(0, 1fr);
  align-content: start;
}
.detail :deep(td),
.detail :deep(th) {
  padding-inline: var(--space-1);
  white-space: nowrap;
}
img {
  width: 100%;
  aspect-ratio: 4 / 3;
  object-fit: cover;
  background: var(--surround);
}
</style>
