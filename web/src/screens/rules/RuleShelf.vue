<script setup lang="ts">
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";

import type { Rule, RuleKind, useRules } from "@/api/rules";
import StateView from "@/parts/StateView.vue";

import RuleList from "./RuleList.vue";
import SaveBar from "./SaveBar.vue";

/** Rules of a kind of which a project has several: the list at the left, the open one with its versions at the right. */
defineProps<{
  slug: string;
  kind: RuleKind;
  rules: ReturnType<typeof useRules>;
  open: Rule | null;
  /** Whether the open one is read, so that it can be edited. */
  ready: boolean;
  dirty: boolean;
  busy: boolean;
  mayRule: boolean;
}>();
const emit = defineEmits<{ pick: [name: string]; save: []; discard: [] }>();
defineSlots<{ line(props: { rule: Rule }): unknown; default(): unknown }>();
</script>

<template>
  <StateView :query="rules">
    <Splitter state-key="rule-list" state-storage="local">
      <SplitterPanel :size="22" :min-size="14" class="scroll">
        <RuleList
          v-slot="{ rule }"
          :kind="kind"
          :slug="slug"
          :rules="rules.data.value ?? []"
          :open="open"
          :may-rule="mayRule"
          @pick="emit('pick', $event)"
        >
          <slot name="line" :rule="rule" />
        </RuleList>
      </SplitterPanel>
      <SplitterPanel :size="78" :min-size="40" class="scroll">
        <section v-if="open && ready" class="editor" :aria-label="open.title">
          <SaveBar
            :kind="kind"
            :slug="slug"
            :rule="open"
            :dirty="dirty"
            :busy="busy"
            :may-change="mayRule"
            @save="emit('save')"
            @discard="emit('discard')"
          />
          <slot />
        </section>
      </SplitterPanel>
    </Splitter>
  </StateView>
</template>

<style scoped>
.editor {
  padding: var(--space-2) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
</style>
