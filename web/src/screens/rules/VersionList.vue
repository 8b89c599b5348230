<script setup lang="ts">
import { ref } from "vue";

import { type Difference, loadDifference, type Rule, type RuleKind, useVersions } from "@/api/rules";

/** The versions of a rule, and what each changed. */
const props = defineProps<{ slug: string; kind: RuleKind; rule: Rule }>();
const versions = useVersions(
  () => props.slug,
  props.kind,
  () => props.rule.name,
);
const open = ref(false);
const shown = ref<number | null>(null);
const changed = ref<Difference[]>([]);
const problem = ref("");

async function show(number: number): Promise<void> {
  shown.value = number;
  problem.value = "";
  changed.value = [];
  try {
    changed.value = await loadDifference(props.slug, props.kind, props.rule.name, number - 1, number);
  } catch {
    problem.value = "Made here; there is nothing before it.";
  }
}
const when = (text: string) => new Date(text).toLocaleString([], { dateStyle: "medium", timeStyle: "short" });
const word = (value: unknown) => (value === null || value === undefined ? "nothing" : JSON.stringify(value));
</script>

<template>
  <div class="versions">
    <button class="plain link" :aria-expanded="open" @click="open = !open">Versions</button>
    <div v-if="open" class="sheet" role="dialog" aria-label="Versions">
      <ol>
        <li v-for="one in versions.data.value ?? []" :key="one.number">
          <button class="plain" :aria-pressed="shown === one.number" @click="show(one.number)">
            version {{ one.number }}, {{ when(one.created) }}, {{ one.by ?? "somebody" }}
          </button>
          <template v-if="shown === one.number">
            <p v-if="problem" class="soft">{{ problem }}</p>
            <dl v-else>
              <template v-for="row in changed" :key="row.path">
                <dt class="mono">{{ row.path }}</dt>
                <dd>
                  <del>{{ word(row.before) }}</del> <ins>{{ word(row.after) }}</ins>
                </dd>
              </template>
            </dl>
          </template>
        </li>
      </ol>
    </div>
  </div>
</template>

<style scoped>
.versions {
  position: relative;
}
.sheet {
  position: absolute;
  z-index: 5;
  top: 24px;
  left: 0;
  width: 420px;
  max-height: 360px;
  overflow: auto;
  background: var(--sheet);
  border: 1px solid var(--line-strong);
  padding: 8px 12px;
  font-size: 12px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
dl {
  margin: 4px 0 4px 10px;
}
dd {
  margin: 0 0 4px 12px;
  overflow-wrap: anywhere;
}
del {
  color: var(--error);
}
ins {
  color: var(--accent);
}
.link,
[aria-pressed="true"] {
  color: var(--accent);
}
</style>
