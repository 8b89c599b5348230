<script setup lang="ts">
import { ref } from "vue";

import { useRuleChanges } from "@/api/ruleChanges";
import type { Rule, RuleBody, RuleKind } from "@/api/rules";

import CopyFrom from "./CopyFrom.vue";

/** All rules of a kind, the open one marked; a copy, a document from disk or another project's rule adds one. */
const props = defineProps<{
  slug: string;
  kind: RuleKind;
  rules: Rule[];
  open: Rule | null;
  mayRule: boolean;
}>();
const emit = defineEmits<{ pick: [name: string] }>();
defineSlots<{ default(props: { rule: Rule }): unknown }>();
const changes = useRuleChanges(() => props.slug);
const newName = ref("");

async function put(name: string, document: RuleBody): Promise<void> {
  const made = await changes.put(props.kind, name, document);
  if (made) emit("pick", made.name);
}
async function copy(): Promise<void> {
  const title = newName.value.trim();
  if (!title || !props.open) return;
  const name = title.toLowerCase();
  await put(name, { ...props.open.document, name, title } as RuleBody);
  newName.value = "";
}
async function read(event: Event): Promise<void> {
  const chooser = event.target as HTMLInputElement;
  const file = chooser.files?.[0];
  if (!file) return;
  try {
    // The studio says what is wrong with it.
    const given = JSON.parse(await file.text()) as RuleBody & { name?: string };
    await put(String(given.name ?? "nameless"), given);
  } catch {
    changes.complain(`${file.name} is not JSON.`);
  }
  chooser.value = "";
}
</script>

<template>
  <aside class="scroll" :aria-label="`Rules: ${kind}s`">
    <button
      v-for="one in rules"
      :key="one.name"
      class="plain row"
      :aria-pressed="one.name === open?.name"
      @click="emit('pick', one.name)"
    >
      <span>{{ one.title }}</span>
      <slot :rule="one" />
    </button>
    <form v-if="mayRule" class="new" @submit.prevent="copy">
      <label>Copy this one as <input v-model="newName" :placeholder="`my-${kind}`" class="mono" /></label>
      <button class="do" :disabled="!newName.trim()">Copy</button>
      <label>Read from JSON <input type="file" accept=".json" @change="read" /></label>
      <CopyFrom :kind="kind" :slug="slug" @copy="(from, name) => changes.copy(kind, from, name)" />
    </form>
  </aside>
</template>

<style scoped>
aside {
  border-right: 1px solid var(--line);
  background: var(--sheet);
  padding: 8px;
  display: grid;
  gap: 2px;
  align-content: start;
}
.row {
  display: grid;
  padding: 6px 8px;
  border-left: 3px solid transparent;
}
.row :slotted(*) {
  font-size: 11px;
}
.row[aria-pressed="true"] {
  border-left-color: var(--accent);
  background: var(--accent-wash);
}
.new {
  border-top: 1px solid var(--line);
  margin-top: 8px;
  padding: 10px 8px;
  display: grid;
  gap: 6px;
  font-size: 12px;
}
.new input {
  width: 100%;
}
.do {
  justify-self: start;
}
</style>
