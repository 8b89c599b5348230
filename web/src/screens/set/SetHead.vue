<script setup lang="ts">
import Button from "primevue/button";
import SelectButton from "primevue/selectbutton";
import { computed } from "vue";

import type { SetDetail } from "@/api/types";
import Mark from "@/parts/Mark.vue";
import { stateOf } from "@/screens/sets/matrix";
import PresenceMarks from "@/screens/team/PresenceMarks.vue";
import ReviewBar from "@/screens/team/ReviewBar.vue";
import type { Channel, Look } from "@/viewer/look";
import { t } from "@/texts/set";

import type { View } from "./useSetPage";

/** The head of a set's page: which set, how it stands, which view, and how the picture is looked at. */
const props = defineProps<{
  slug: string;
  set: SetDetail;
  right?: string;
  /** Whether steps are tried out that are not applied yet. */
  editing: boolean;
  channels: { value: Channel; label: string; off: boolean; title: string }[];
  comparable: boolean;
}>();
const emit = defineEmits<{ go: [step: number] }>();
const look = defineModel<Look>("look", { required: true });
const view = defineModel<View>("view", { required: true });

const views: { value: View; label: string; title: string }[] = [
  { value: "flat", label: t("flat"), title: t("theMapAsItIs") },
  { value: "formats", label: t("compressed"), title: t("asFormatsEncodeItE") },
  { value: "surface", label: t("surface"), title: t("theSetOnASurfaceV") },
  { value: "packed", label: t("packed"), title: t("whatTheTargetPacksLargeP") },
];
const comparisons = [
  { value: "none", label: t("result"), title: t("theResultAlone") },
  { value: "before", label: t("before"), title: t("whatItIsComparedWithAlone") },
  { value: "wipe", label: t("wipe"), title: t("bothWithALineBetweenThem") },
  { value: "beside", label: t("beside"), title: t("bothSideBySide") },
  { value: "difference", label: t("difference"), title: t("howFarTheyDiffer") },
];
const against = computed(() => {
  if (view.value === "formats") return t("compareWithTheMap");
  return look.value.level ? t("compareWithPlainAveraging") : t("compareWithTheSource");
});
const state = computed(() => {
  const { errors, warnings, judged, maps } = props.set;
  const parts = [t("countMaps", { count: maps.length })];
  if (!judged) parts.push(t("beingChecked"));
  if (errors) parts.push(t("n1Error", { count: errors, errors }));
  if (warnings) parts.push(t("n1Warning", { count: warnings, warnings }));
  return parts.join(", ");
});
</script>

<template>
  <header>
    <Button
      text
      severity="secondary"
      icon="pi pi-angle-left"
      :aria-label="t('previousSet')"
      :title="t('previousSetK')"
      @click="emit('go', -1)"
    />
    <Button
      text
      severity="secondary"
      icon="pi pi-angle-right"
      :aria-label="t('nextSet')"
      :title="t('nextSetJ')"
      @click="emit('go', 1)"
    />
    <h1>{{ set.name }}</h1>
    <span class="soft state"><Mark :severity="stateOf(set)" /> {{ state }}</span>
    <PresenceMarks :slug="slug" :about="`sets:${set.id}`" :editing="editing" />
    <ReviewBar :slug="slug" :sets="[set.id]" :right="right" />
    <div class="row actions">
      <SelectButton
        v-model="view"
        :options="views"
        option-label="label"
        option-value="value"
        :allow-empty="false"
        :aria-label="t('view')"
      >
        <template #option="{ option }"
          ><span :title="option.title">{{ option.label }}</span></template
        >
      </SelectButton>
      <template v-if="view === 'flat' || view === 'formats'">
        <SelectButton
          v-model="look.channel"
          :options="channels"
          option-label="label"
          option-value="value"
          option-disabled="off"
          :allow-empty="false"
          :aria-label="t('channel2')"
        >
          <template #option="{ option }"
            ><span :title="option.title">{{ option.label }}</span></template
          >
        </SelectButton>
        <SelectButton
          v-if="comparable"
          v-model="look.comparison"
          :options="comparisons"
          option-label="label"
          option-value="value"
          :allow-empty="false"
          :aria-label="against"
        >
          <template #option="{ option }"
            ><span :title="option.title">{{ option.label }}</span></template
          >
        </SelectButton>
      </template>
    </div>
  </header>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  gap: 2px var(--space-2);
  align-items: center;
  min-height: 40px;
  padding: 2px var(--space-3);
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
.state {
  flex: 1;
  min-width: 8rem;
}
</style>
