<script setup lang="ts">
import { computed, ref } from "vue";

import { useRuleChanges } from "@/api/ruleChanges";
import { type OutputDocument, type TargetDocument, useRules, type Rule, type RuleBody } from "@/api/rules";
import type { Project } from "@/api/types";

import SaveBar from "./SaveBar.vue";
import OutputEditor from "./OutputEditor.vue";
import RuleList from "./RuleList.vue";
import ShownOn from "./ShownOn.vue";
import TargetFacts from "./TargetFacts.vue";
import { useEdited } from "./useEdited";
import { useSample } from "./useSample";

/** What engines and platforms want: every target the project may deliver to, one of them open. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "target");
const changes = useRuleChanges(() => props.slug);
const picked = ref("");
const rule = computed(() => {
  const all = rules.data.value ?? [];
  return all.find((one) => one.name === (picked.value || props.project.target)) ?? all[0] ?? null;
});
const { document, dirty, discard, set, keep } = useEdited<TargetDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("target", rule.value!.name, next, before);
const open = ref("");
const output = computed(() => {
  const all = document.value?.outputs ?? [];
  const packed = (one: OutputDocument) => {
    const colours = Object.entries(one.channels).filter(([letter]) => letter !== "a");
    return new Set(colours.map(([, source]) => source.role)).size > 1;
  };
  return all.find((one) => one.output === open.value) ?? all.find(packed) ?? all[0] ?? null;
});
const { sets, sample, roles, choose } = useSample(() => props.slug);

function change(next: OutputDocument): void {
  const outputs = document.value!.outputs.map((one) => (one.output === output.value!.output ? next : one));
  open.value = next.output;
  set({ outputs });
}
function add(): void {
  const taken = new Set(document.value!.outputs.map((one) => one.output));
  let number = 1;
  while (taken.has(`output${number}`)) number += 1;
  const made: OutputDocument = {
    output: `output${number}`,
    channels: { r: { role: "occlusion" }, g: { role: "roughness" }, b: { role: "metallic" } },
    colour_space: "linear",
    container: "png",
    bits: 8,
  };
  open.value = made.output;
  set({ outputs: [...document.value!.outputs, made] });
}
function remove(): void {
  set({ outputs: document.value!.outputs.filter((one) => one.output !== output.value!.output) });
}
</script>

<template>
  <div class="targets">
    <RuleList
      v-slot="{ rule: one }"
      kind="target"
      :slug="slug"
      :rules="rules.data.value ?? []"
      :open="rule"
      :may-rule="mayRule"
      @pick="picked = $event"
    >
      <span class="soft mono"
        >{{ one.name }}{{ one.own ? `, version ${one.number}` : ""
        }}{{ one.name === project.target ? ", in use" : "" }}</span
      >
    </RuleList>
    <section v-if="rule && document" class="scroll editor">
      <SaveBar
        kind="target"
        :slug="slug"
        :rule="rule"
        :dirty="dirty"
        :busy="changes.busy.value"
        :may-change="mayRule"
        @keep="keep(put)"
        @discard="discard"
      />
      <TargetFacts :document="document" :may-change="mayRule" @set="set" />
      <div class="tabs">
        <span role="tablist" aria-label="Outputs" class="list">
          <button
            v-for="one in document.outputs"
            :key="one.output"
            role="tab"
            :aria-selected="one.output === output?.output"
            @click="open = one.output"
          >
            {{ one.output }}
          </button>
        </span>
        <button v-if="mayRule" class="plain link" @click="add">Add an output</button>
        <button v-if="mayRule && document.outputs.length > 1" class="plain link" @click="remove">
          Take {{ output?.output }} out
        </button>
        <ShownOn class="sample" :sets="sets" :sample="sample" @choose="choose" />
      </div>
      <OutputEditor
        v-if="output"
        :key="output.output"
        :slug="slug"
        :sample="sample"
        :target="document"
        :output="output"
        :roles="roles"
        :may-change="mayRule"
        @change="change"
      />
    </section>
  </div>
</template>

<style scoped>
.targets {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr);
}
.editor {
  padding: 8px 16px;
  display: grid;
  gap: 10px;
  align-content: start;
}
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
  border-bottom: 1px solid var(--line);
  padding-bottom: 6px;
}
.list {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.tabs [role="tab"] {
  border: 1px solid var(--line);
  background: none;
  color: inherit;
  padding: 2px 10px;
  cursor: pointer;
}
.tabs [aria-selected="true"] {
  border-color: var(--accent);
  color: var(--accent);
}
.sample {
  margin-left: auto;
}
.link {
  color: var(--accent);
  padding: 0 8px;
}
</style>
