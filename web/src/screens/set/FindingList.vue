<script setup lang="ts">
import Button from "primevue/button";
import { computed, ref } from "vue";

import { pictureOf } from "@/api/pictures";
import type { Finding, RoleInfo, SetDetail } from "@/api/types";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/set";

import FindingCard from "./FindingCard.vue";

/** Findings in order of harm: the number, its threshold, where to look, and what can be done. */
const props = defineProps<{
  slug: string;
  set: SetDetail;
  roles: RoleInfo[];
  mayChange: boolean;
  mayWaive?: boolean;
  shown: number | null;
}>();
const emit = defineEmits<{
  show: [finding: Finding];
  remedy: [finding: Finding];
  tileable: [];
  alpha: [finding: Finding, role: string];
  judge: [];
  waive: [finding: Finding, reason: string, until: string | null];
  revoke: [finding: Finding];
}>();

const waiving = ref<number | null>(null);
function waive(finding: Finding, reason: string, until: string | null): void {
  emit("waive", finding, reason, until);
  waiving.value = null;
}
/** What counts first; what is waived behind it. */
const findings = computed(() =>
  [...props.set.findings].sort((a, b) => Number(Boolean(a.waiver)) - Number(Boolean(b.waiver))),
);
const label = (role: string | null) => props.roles.find((one) => one.key === role)?.label ?? "";

/** A small picture of the place that a finding is about. */
function evidenceOf(finding: Finding): string {
  const map = props.set.maps.find((one) => one.id === finding.map);
  if (!map || !finding.place) return "";
  const { x, y, width, height } = finding.place;
  const channel = finding.place.channel ?? undefined;
  return pictureOf(props.slug, map, {
    side: 128,
    box: { x, y, width, height },
    // A map taken from one channel has only that one.
    channel: map.channel ? undefined : channel,
    // An unused alpha lies in the source.
    source: channel === "a",
  });
}
const evidence = computed(() =>
  Object.fromEntries(props.set.findings.map((finding) => [finding.id, evidenceOf(finding)])),
);
</script>

<template>
  <section class="findings" :aria-label="t('findings')">
    <p v-if="!set.judged" class="soft row">
      <Mark severity="judging" />
      {{ t("beingCheckedFindingsFollow") }}
      <Button v-if="mayChange" text :label="t('checkAgain')" @click="emit('judge')" />
    </p>
    <p v-else-if="!set.findings.length"><Mark severity="fine" /> {{ t("noFindingsThisSetCanBe") }}</p>
    <FindingCard
      v-for="finding in findings"
      :key="finding.id"
      v-model:waiving="waiving"
      :finding="finding"
      :role="label(finding.role)"
      :roles="roles"
      :evidence="evidence[finding.id]!"
      :shown="shown === finding.id"
      :may-change="mayChange"
      :may-waive="mayWaive"
      @show="emit('show', finding)"
      @tileable="emit('tileable')"
      @remedy="emit('remedy', finding)"
      @alpha="emit('alpha', finding, $event)"
      @waive="(reason, until) => waive(finding, reason, until)"
      @revoke="emit('revoke', finding)"
    />
  </section>
</template>

<style scoped>
.findings {
  display: grid;
  gap: var(--space-2);
  align-content: start;
}
</style>
