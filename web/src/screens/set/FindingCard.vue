<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";

import type { Finding, RoleInfo, Severity } from "@/api/types";
import { named } from "@/parts/fields/options";
import PickAction from "@/parts/fields/PickAction.vue";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/set";

import WaiverForm from "./WaiverForm.vue";

/** One finding: what it is, the number with its threshold, where to look, what can be done. */
const props = defineProps<{
  finding: Finding;
  role: string;
  roles: RoleInfo[];
  evidence: string;
  shown: boolean;
  mayChange: boolean;
  mayWaive?: boolean;
}>();
const emit = defineEmits<{
  show: [];
  remedy: [];
  tileable: [];
  alpha: [role: string];
  waive: [reason: string, until: string | null];
  revoke: [];
}>();
/** The finding that is being waived: one at a time. */
const waiving = defineModel<number | null>("waiving", { required: true });
const number = (value: number | null) => {
  if (value === null) return "";
  return Number.isInteger(value) ? String(value) : value.toPrecision(3);
};
/** Borders that do not meet are better mended on all maps of the set alike. */
const repeats = computed(
  () =>
    props.finding.remedy && "step" in props.finding.remedy && props.finding.remedy.step === "make_tileable",
);
const scalars = computed(() =>
  named(
    props.roles.filter((one) => one.scalar),
    "key",
    "label",
  ),
);
const waiver = computed(() => {
  const { waiver: told } = props.finding;
  if (!told) return "";
  const said = { reason: told.reason, by: told.by ?? t("somebody") };
  return told.until ? t("waivedUntil", { ...said, until: told.until }) : t("waivedFor", { ...said });
});
</script>

<template>
  <article
    :class="[finding.severity, { shown, waived: finding.waiver }]"
    :data-check="finding.check"
    @click="emit('show')"
  >
    <header>
      <Mark :severity="finding.severity as Severity" />
      <h2>{{ finding.title }}</h2>
      <span class="soft role">{{ role }}</span>
    </header>
    <div class="body">
      <img v-if="evidence" :src="evidence" :alt="t('whereToLook')" />
      <div>
        <p>{{ finding.message }}</p>
        <p v-if="finding.measure !== null" class="mono soft">
          {{ t("measured", { number: number(finding.measure) })
          }}<template v-if="finding.threshold !== null">{{
            t("threshold", { number: number(finding.threshold) })
          }}</template>
        </p>
      </div>
    </div>
    <p v-if="finding.waiver" class="row">
      {{ waiver }}
      <Button v-if="mayWaive" text :label="t('revokeWaiver')" @click.stop="emit('revoke')" />
    </p>
    <WaiverForm
      v-else-if="waiving === finding.id"
      @click.stop
      @waive="(reason, until) => emit('waive', reason, until)"
      @cancel="waiving = null"
    />
    <footer v-else-if="mayChange" class="row">
      <Button
        v-if="place(finding)"
        text
        severity="secondary"
        icon="pi pi-search"
        :label="t('show')"
        :title="t('showThePlaceOnThePicture')"
        @click.stop="emit('show')"
      />
      <Button
        v-if="finding.remedy"
        outlined
        :label="String(finding.remedy.label)"
        :title="'step' in finding.remedy ? t('triedOnThePictureFirstH') : t('doneAtOnceItCanBe')"
        @click.stop="emit('remedy')"
      />
      <Button
        v-if="mayChange && repeats"
        outlined
        :label="t('makeTileable')"
        :title="t('makeTileableHelp')"
        @click.stop="emit('tileable')"
      />
      <PickAction
        v-if="finding.check === 'hidden_alpha'"
        :label="t('useAlphaAs')"
        :options="scalars"
        @click.stop
        @pick="emit('alpha', $event)"
      />
      <Button
        v-if="mayWaive"
        text
        severity="secondary"
        :label="t('waive')"
        :title="t('acceptItWithAReason')"
        data-test="waive"
        @click.stop="waiving = finding.id"
      />
    </footer>
  </article>
</template>

<script lang="ts">
const place = (finding: Finding) => finding.place !== null || finding.marks !== null;
</script>

<style scoped>
article {
  border: 1px solid var(--line);
  border-left: 3px solid var(--line-strong);
  background: var(--sheet);
  padding: var(--space-2);
  display: grid;
  gap: 6px;
  cursor: pointer;
}
.error {
  color: inherit;
  border-left-color: var(--error);
}
.warning {
  color: inherit;
  border-left-color: var(--warning);
}
.shown {
  outline: 2px solid var(--accent);
  outline-offset: -1px;
}
h2 {
  font-size: var(--text-normal);
}
header {
  display: flex;
  gap: 6px;
  align-items: baseline;
}
.role {
  margin-left: auto;
}
.body {
  display: flex;
  gap: var(--space-2);
}
img {
  width: 72px;
  height: 72px;
  object-fit: contain;
  background: var(--surround);
  image-rendering: pixelated;
  flex: none;
}
.waived {
  opacity: 0.8;
}
footer {
  gap: var(--space-1) var(--space-2);
}
</style>
