<script setup lang="ts">
import Button from "primevue/button";
import Popover from "primevue/popover";
import Tag from "primevue/tag";
import { ref } from "vue";

import type { Rule, RuleKind } from "@/api/rules";
import { t } from "@/texts/rules";

import VersionList from "./VersionList.vue";

/** Whether what is edited is saved, and the versions that were. */
defineProps<{
  slug: string;
  kind: RuleKind;
  rule: Rule;
  dirty: boolean;
  busy: boolean;
  mayChange: boolean;
}>();
const emit = defineEmits<{ save: []; discard: [] }>();
const versions = ref<InstanceType<typeof Popover> | null>(null);

function download(rule: Rule): void {
  const text = new Blob([JSON.stringify(rule.document, null, 2) + "\n"], { type: "application/json" });
  const link = document.createElement("a");
  link.href = URL.createObjectURL(text);
  link.download = `${rule.name}.json`;
  link.click();
  URL.revokeObjectURL(link.href);
}
</script>

<template>
  <div class="row">
    <Tag severity="secondary" :value="rule.number ? t('version', { number: rule.number }) : t('readyMade')" />
    <span v-if="rule.origin" class="soft">{{ t("copiedFrom", { project: rule.origin.project }) }}</span>
    <Tag v-if="dirty" severity="warn" :value="t('notSaved')" />
    <template v-if="dirty && mayChange">
      <Button
        :label="t('saveAsVersion', { number: rule.number + 1 })"
        :disabled="busy"
        @click="emit('save')"
      />
      <Button :label="t('discard')" text @click="emit('discard')" />
    </template>
    <span class="grow" />
    <Button
      v-if="rule.number"
      :label="t('versions')"
      text
      severity="secondary"
      icon="pi pi-history"
      aria-haspopup="dialog"
      @click="versions?.toggle($event)"
    />
    <Button
      :label="t('downloadJson')"
      text
      severity="secondary"
      icon="pi pi-download"
      @click="download(rule)"
    />
    <Popover ref="versions" :aria-label="t('versions')">
      <VersionList :slug="slug" :kind="kind" :rule="rule" />
    </Popover>
  </div>
</template>
