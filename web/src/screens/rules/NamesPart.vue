<script setup lang="ts">
import Button from "primevue/button";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import Textarea from "primevue/textarea";
import { computed, ref, useId, watch } from "vue";

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
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/rules";

import SaveBar from "./SaveBar.vue";
import NameShape from "./NameShape.vue";
import RenameList from "./RenameList.vue";
import { useEdited } from "./useEdited";

/** The rules for names: what a name is made of, names tried out live, the project's files renamed by them. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "names");
const names = useNames(() => props.slug);
const changes = useRuleChanges(() => props.slug);
const rule = computed(() => rules.data.value?.[0] ?? null);
const { document, dirty, discard, set, save } = useEdited<NamesDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("names", rule.value!.name, next, before);

const id = useId();
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
  [lines, () => JSON.stringify(document.value), names.data],
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
    learnt.value = t("theseRulesFitOfTheProject", { share: Math.round(found.share * 100) });
  } catch (error) {
    learnt.value = (error as Error).message;
  }
}
const right = computed(() => files.value.filter((one) => one.fine).length);
const partsOf = (one: NameVerdict) => Object.entries(one.parts).filter(([kind]) => kind !== "text");
</script>

<template>
  <StateView :query="rules">
    <Splitter state-key="rule-names" state-storage="local">
      <SplitterPanel :size="50" :min-size="30" class="scroll">
        <section class="left" :aria-label="t('rulesForNames')">
          <SaveBar
            v-if="rule"
            kind="names"
            :slug="slug"
            :rule="rule"
            :dirty="dirty"
            :busy="changes.busy.value"
            :may-change="mayRule"
            @save="save(put)"
            @discard="discard"
          />
          <p class="shape mono" data-test="shape">{{ shape || "…" }}</p>
          <p v-if="problem" class="error" role="alert">{{ problem }}</p>
          <p v-if="dirty && files.length" class="soft" role="status">
            {{ t("ofTheProjectSNamesWould", { right, count: files.length }) }}
          </p>
          <NameShape v-if="document" :document="document" :may-change="mayRule" @set="set" />
          <div v-if="mayRule" class="row">
            <Button :label="t('learnFromTheProjectSNames')" outlined severity="secondary" @click="learn" />
            <span class="soft" role="status">{{ learnt }}</span>
          </div>
          <label :for="id">{{ t("testNamesOnePerLine") }}</label>
          <Textarea
            :id="id"
            v-model="lines"
            class="mono"
            rows="4"
            :placeholder="t('hullPlateBasecolorPng')"
          />
          <ol v-if="tried.length" class="tried" :aria-label="t('testedNames')">
            <li v-for="one in tried" :key="one.path" :data-fine="one.fine">
              <Mark :severity="one.fine ? 'fine' : 'warning'" />
              <span class="mono">{{ one.path }}</span>
              <span v-if="one.fine" class="soft row">
                <span v-for="[kind, text] in partsOf(one)" :key="kind"
                  >{{ kind }} <b>{{ text }}</b></span
                >
              </span>
              <template v-else>
                <span>{{ one.problems.join("; ") }}</span>
                <span v-if="one.right" class="mono new">→ {{ one.right }}</span>
              </template>
            </li>
          </ol>
        </section>
      </SplitterPanel>
      <SplitterPanel :size="50" :min-size="30" class="scroll">
        <StateView :query="names">
          <RenameList
            :files="names.data.value!.files"
            :may-change="mayPrepare"
            :unsaved="dirty"
            :busy="changes.busy.value"
            @rename="changes.rename($event)"
          />
        </StateView>
      </SplitterPanel>
    </Splitter>
  </StateView>
</template>

<style scoped>
.left {
  padding: var(--space-2) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
.shape {
  font-size: var(--text-title);
}
.tried {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: var(--space-2);
}
.tried li {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  align-items: baseline;
}
.new {
  color: var(--accent);
}
</style>
