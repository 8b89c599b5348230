<script setup lang="ts">
import { computed, ref } from "vue";

import { useProjects } from "@/api/queries";
import { type RuleKind, useRules } from "@/api/rules";

/** A rule of another project, copied into this one; the copy keeps its origin. */
const props = defineProps<{ slug: string; kind: RuleKind }>();
const emit = defineEmits<{ copy: [project: string, name: string] }>();

const projects = useProjects();
const others = computed(() => (projects.data.value ?? []).filter((one) => one.slug !== props.slug));
const from = ref("");
const rules = useRules(
  () => from.value || props.slug,
  () => props.kind,
);
const own = computed(() => (from.value ? (rules.data.value ?? []).filter((one) => one.own) : []));
function copy(event: Event): void {
  const select = event.target as HTMLSelectElement;
  if (select.value) emit("copy", from.value, select.value);
  select.value = "";
}
</script>

<template>
  <div v-if="others.length" class="from">
    <label
      >From another project
      <select v-model="from">
        <option value="">…</option>
        <option v-for="one in others" :key="one.slug" :value="one.slug">{{ one.name }}</option>
      </select></label
    >
    <select v-if="own.length" aria-label="Which to copy" @change="copy">
      <option value="">Copy …</option>
      <option v-for="one in own" :key="one.name" :value="one.name">{{ one.title }}</option>
    </select>
    <span v-else-if="from" class="soft">It has none of its own.</span>
  </div>
</template>

<style scoped>
.from {
  display: grid;
  gap: 4px;
}
select {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 2px;
}
</style>
