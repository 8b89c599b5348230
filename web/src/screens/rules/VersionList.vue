<script setup lang="ts">
import Button from "primevue/button";
import { ref } from "vue";

import { type Difference, loadDifference, type Rule, type RuleKind, useVersions } from "@/api/rules";
import { whenOf } from "@/app/when";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/rules";

/** The versions of a rule, and what each changed. */
const props = defineProps<{ slug: string; kind: RuleKind; rule: Rule }>();
const versions = useVersions(
  () => props.slug,
  props.kind,
  () => props.rule.name,
);
const shown = ref<number | null>(null);
const changed = ref<Difference[]>([]);
const note = ref("");

async function show(number: number): Promise<void> {
  shown.value = number;
  note.value = "";
  changed.value = [];
  if (number === Math.min(...(versions.data.value ?? []).map((one) => one.number))) {
    note.value = t("theFirstVersionThereIsNone");
    return;
  }
  try {
    changed.value = await loadDifference(props.slug, props.kind, props.rule.name, number - 1, number);
  } catch (error) {
    note.value = (error as Error).message;
  }
}
const word = (value: unknown) =>
  value === null || value === undefined ? t("nothing") : JSON.stringify(value);
</script>

<template>
  <StateView :query="versions" :rows="3">
    <ol>
      <li v-for="one in versions.data.value ?? []" :key="one.number">
        <Button
          text
          :severity="shown === one.number ? 'primary' : 'secondary'"
          :aria-pressed="shown === one.number"
          :label="
            t('versionSaved', {
              number: one.number,
              when: whenOf(one.created),
              by: one.by ? `, ${one.by}` : '',
            })
          "
          @click="show(one.number)"
        />
        <template v-if="shown === one.number">
          <p v-if="note" class="soft">{{ note }}</p>
          <dl v-else>
            <template v-for="row in changed" :key="row.path">
              <dt class="mono">{{ row.path }}</dt>
              <dd>
                <del>{{ word(row.before) }}</del> → <ins>{{ word(row.after) }}</ins>
              </dd>
            </template>
          </dl>
        </template>
      </li>
    </ol>
  </StateView>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  width: 26rem;
  max-width: 80vw;
  max-height: 24rem;
  overflow: auto;
}
dl {
  margin: var(--space-1) 0 var(--space-2) var(--space-3);
}
dd {
  margin: 0 0 var(--space-1) var(--space-3);
  overflow-wrap: anywhere;
}
del {
  color: var(--error);
}
ins {
  color: var(--accent);
}
</style>
