<script setup lang="ts">
import Button from "primevue/button";

import type { Rule, RuleKind } from "@/api/rules";

import VersionList from "./VersionList.vue";

/** Whether what is edited is kept, and the versions that were. */
defineProps<{
  slug: string;
  kind: RuleKind;
  rule: Rule;
  dirty: boolean;
  busy: boolean;
  mayChange: boolean;
}>();
const emit = defineEmits<{ keep: []; discard: [] }>();

function save(rule: Rule): void {
  const text = new Blob([JSON.stringify(rule.document, null, 2) + "\n"], { type: "application/json" });
  const link = document.createElement("a");
  link.href = URL.createObjectURL(text);
  link.download = `${rule.name}.json`;
  link.click();
  URL.revokeObjectURL(link.href);
}
</script>

<template>
  <div class="bar">
    <span class="soft">
      {{ rule.number ? `version ${rule.number}` : "ready-made" }}
      <template v-if="rule.origin">, copied from {{ rule.origin.project }}</template>
    </span>
    <template v-if="dirty && mayChange">
      <Button
        size="small"
        :label="`Keep as version ${rule.number + 1}`"
        :disabled="busy"
        @click="emit('keep')"
      />
      <button class="plain link" @click="emit('discard')">Discard</button>
    </template>
    <button class="plain link" @click="save(rule)">Save as JSON</button>
    <VersionList v-if="rule.number" :slug="slug" :kind="kind" :rule="rule" />
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 14px;
  align-items: center;
  flex-wrap: wrap;
  min-height: 32px;
}
.link {
  color: var(--accent);
}
</style>
