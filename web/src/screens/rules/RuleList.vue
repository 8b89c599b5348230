<script setup lang="ts">
import Button from "primevue/button";
import Popover from "primevue/popover";
import { ref } from "vue";

import { useRuleChanges } from "@/api/ruleChanges";
import type { Rule, RuleBody, RuleKind } from "@/api/rules";
import TextField from "@/parts/fields/TextField.vue";
import FilePick from "@/parts/FilePick.vue";
import { t } from "@/texts/rules";

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
const adding = ref<InstanceType<typeof Popover> | null>(null);

async function put(name: string, document: RuleBody): Promise<void> {
  const made = await changes.put(props.kind, name, document);
  if (!made) return;
  adding.value?.hide();
  emit("pick", made.name);
}
async function copy(text: string): Promise<void> {
  const title = text.trim();
  if (!title || !props.open) return;
  const name = title.toLowerCase();
  await put(name, { ...props.open.document, name, title } as RuleBody);
}
async function read(files: File[]): Promise<void> {
  const file = files[0];
  if (!file) return;
  try {
    // The server says what is wrong with it.
    const given = JSON.parse(await file.text()) as RuleBody & { name?: string };
    await put(String(given.name ?? "nameless"), given);
  } catch {
    changes.complain(t("isNotJson", { name: file.name }));
  }
}
</script>

<template>
  <aside class="scroll" :aria-label="t('allS', { kind })">
    <Button
      v-if="mayRule"
      :label="t('new', { kind })"
      icon="pi pi-plus"
      severity="secondary"
      @click="adding?.toggle($event)"
    />
    <Popover ref="adding" :aria-label="t('new', { kind })">
      <div class="new">
        <TextField
          value=""
          clears
          mono
          :label="t('copyAs', { title: open?.title })"
          :placeholder="t('nameOfACopyOf', { title: open?.title })"
          @change="copy"
        />
        <FilePick :label="t('readFromAJsonFile')" accept=".json" outlined test="rule-file" @files="read" />
        <CopyFrom :kind="kind" :slug="slug" @copy="(from, name) => changes.copy(kind, from, name)" />
      </div>
    </Popover>
    <ul>
      <li v-for="one in rules" :key="one.name" :data-rule="one.name">
        <Button
          text
          severity="secondary"
          class="one"
          :aria-current="one.name === open?.name"
          @click="emit('pick', one.name)"
        >
          <span>{{ one.title }}</span>
          <slot :rule="one" />
        </Button>
      </li>
    </ul>
  </aside>
</template>

<style scoped>
aside {
  background: var(--sheet);
  padding: var(--space-2);
  display: grid;
  gap: var(--space-2);
  align-content: start;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.one {
  display: grid;
  justify-items: start;
  justify-content: start;
  gap: 0;
  width: 100%;
  text-align: left;
  font-weight: 400;
  border-left: 3px solid transparent;
}
.one[aria-current="true"] {
  background: var(--accent-wash);
  border-left-color: var(--accent);
}
.one :slotted(*) {
  font-size: var(--text-small);
}
.new {
  display: grid;
  gap: var(--space-2);
  width: 17rem;
}
</style>
