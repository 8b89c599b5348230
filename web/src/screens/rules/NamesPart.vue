<script setup lang="ts">
import { computed, ref, watch } from "vue";

import { useRuleChanges } from "@/api/ruleChanges";
import {
  learnNames,
  type NamesDocument,
  type NameVerdict,
  tryNames,
  useNames,
  useRules,
  type Rule,
  type RuleBody,
} from "@/api/rules";
import type { Project } from "@/api/types";
import Mark from "@/parts/Mark.vue";

import SaveBar from "./SaveBar.vue";
import NameShape from "./NameShape.vue";
import RenameList from "./RenameList.vue";
import { useEdited } from "./useEdited";

/** The house's rules for names: what a name is made of, names tried out live, the project's files put right. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "names");
const names = useNames(() => props.slug);
const changes = useRuleChanges(() => props.slug);
const rule = computed(() => rules.data.value?.[0] ?? null);
const { document, dirty, discard, set, keep } = useEdited<NamesDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("names", rule.value!.name, next, before);

const lines = ref("");
const tried = ref<NameVerdict[]>([]);
const files = ref<NameVerdict[]>([]);
const shape = ref("");
const problem = ref("");
let timer = 0;

/** Names that are typed, and the project's own, by the rules as they stand here. */
async function tryOut(): Promise<void> {
  if (!document.value) return;
  try {
    const typed = lines.value.split("\n");
    const told = await tryNames(props.slug, typed, document.value);
    [tried.value, shape.value, problem.value] = [told.names, told.shape, ""];
    if (dirty.value) {
      const own = (names.data.value?.files ?? []).map((one) => one.path);
      files.value = (await tryNames(props.slug, own, document.value)).names;
    }
  } catch (error) {
    problem.value = (error as Error).message;
  }
}
watch(
  () => [lines.value, JSON.stringify(document.value), names.data.value],
  () => {
    window.clearTimeout(timer);
    timer = window.setTimeout(() => void tryOut(), 200);
  },
  { immediate: true },
);
const learnt = ref("");
async function learn(): Promise<void> {
  try {
    const found = await learnNames(props.slug, null);
    document.value = found.rules;
    learnt.value = `These explain ${Math.round(found.share * 100)} % of the project's names.`;
  } catch (error) {
    learnt.value = (error as Error).message;
  }
}
const right = computed(() => files.value.filter((one) => one.fine).length);
const partsOf = (one: NameVerdict) => Object.entries(one.parts).filter(([kind]) => kind !== "text");
</script>

<template>
  <div class="names">
    <section class="scroll left" aria-label="Rules for names">
      <SaveBar
        v-if="rule"
        kind="names"
        :slug="slug"
        :rule="rule"
        :dirty="dirty"
        :busy="changes.busy.value"
        :may-change="mayRule"
        @keep="keep(put)"
        @discard="discard"
      />
      <p class="shape mono" data-test="shape">{{ shape || "…" }}</p>
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <p v-if="dirty && files.length" class="soft" role="status">
        {{ right }} of the project's {{ files.length }} names would be right.
      </p>
      <NameShape v-if="document" :document="document" :may-change="mayRule" @set="set" />
      <p v-if="mayRule">
        <button class="plain link" @click="learn">Learn from the project's names</button>
        <span class="soft"> {{ learnt }}</span>
      </p>
      <label class="tester"
        >Try names, one a line
        <textarea v-model="lines" class="mono" rows="4" placeholder="Hull-Plate_BaseColor.png" />
      </label>
      <ol v-if="tried.length" class="tried" aria-label="Names tried">
        <li v-for="one in tried" :key="one.path" :data-fine="one.fine">
          <Mark :severity="one.fine ? 'fine' : 'warning'" />
          <span class="mono">{{ one.path }}</span>
          <span v-if="one.fine" class="soft">
            <template v-for="[kind, text] in partsOf(one)" :key="kind"
              ><span class="part"
                >{{ kind }} <b>{{ text }}</b></span
              >
            </template>
          </span>
          <template v-else>
            <span class="why">{{ one.problems.join("; ") }}</span>
            <span v-if="one.right" class="mono right">→ {{ one.right }}</span>
          </template>
        </li>
      </ol>
    </section>
    <RenameList
      :files="names.data.value?.files ?? []"
      :may-change="mayPrepare"
      :unkept="dirty"
      :busy="changes.busy.value"
      @rename="changes.rename($event)"
    />
  </div>
</template>

<style scoped>
.names {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
}
.left {
  padding: 8px 16px;
  display: grid;
  gap: 10px;
  align-content: start;
  border-right: 1px solid var(--line);
}
p {
  margin: 0;
}
.shape {
  font-size: 16px;
}
.tester {
  display: grid;
  gap: 4px;
}
textarea {
  background: var(--sheet);
  color: inherit;
  border: 1px solid var(--line-strong);
  padding: 4px 6px;
}
.tried {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
  font-size: 12px;
}
.tried li {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: baseline;
}
.part {
  margin-right: 8px;
}
.right {
  color: var(--accent);
}
.problem {
  color: var(--error);
}
.link {
  color: var(--accent);
}
</style>
