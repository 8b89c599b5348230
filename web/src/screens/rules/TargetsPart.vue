<script setup lang="ts">
import Button from "primevue/button";
import SelectButton from "primevue/selectbutton";
import { computed, ref } from "vue";

import { useRuleChanges } from "@/api/ruleChanges";
import { type OutputDocument, type TargetDocument, useRules, type Rule, type RuleBody } from "@/api/rules";
import type { Project } from "@/api/types";
import { useAddress } from "@/app/useAddress";
import { t } from "@/texts/rules";

import OutputEditor from "./OutputEditor.vue";
import ShownOn from "./ShownOn.vue";
import TargetFacts from "./TargetFacts.vue";
import RuleShelf from "./RuleShelf.vue";
import { useEdited } from "./useEdited";
import { useSample } from "./useSample";

/** What engines and platforms want: every target the project may deliver to, one of them open. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "target");
const changes = useRuleChanges(() => props.slug);
const picked = useAddress<string>("open", "");
const rule = computed(() => {
  const all = rules.data.value ?? [];
  return all.find((one) => one.name === (picked.value || props.project.target)) ?? all[0] ?? null;
});
const { document, dirty, discard, set, save } = useEdited<TargetDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("target", rule.value!.name, next, before);
const open = ref("");
const names = computed(() => document.value?.outputs.map((one) => one.output) ?? []);
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
  const taken = new Set(names.value);
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
const about = (one: Rule) =>
  [
    one.name,
    one.own ? t("versionNumber", { number: one.number }) : "",
    one.name === props.project.target ? t("inUse") : "",
  ]
    .filter(Boolean)
    .join(", ");
</script>

<template>
  <RuleShelf
    kind="target"
    :slug="slug"
    :rules="rules"
    :open="rule"
    :ready="document !== null"
    :dirty="dirty"
    :busy="changes.busy.value"
    :may-rule="mayRule"
    @pick="picked = $event"
    @save="save(put)"
    @discard="discard"
  >
    <template #line="{ rule: one }">
      <span class="soft mono">{{ about(one) }}</span>
    </template>
    <template v-if="rule && document">
      <TargetFacts :document="document" :may-change="mayRule" @set="set" />
      <div class="row outputs">
        <h2>{{ t("outputs") }}</h2>
        <SelectButton
          :model-value="output?.output"
          :options="names"
          :allow-empty="false"
          :aria-label="t('outputs')"
          @update:model-value="open = $event"
        />
        <template v-if="mayRule">
          <Button :label="t('addAnOutput')" text icon="pi pi-plus" @click="add" />
          <Button
            v-if="names.length > 1"
            :label="t('removeThisOutput')"
            text
            severity="secondary"
            icon="pi pi-trash"
            @click="remove"
          />
        </template>
        <span class="grow" />
        <ShownOn :sets="sets" :sample="sample" @choose="choose" />
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
    </template>
  </RuleShelf>
</template>

<style scoped>
.outputs {
  border-top: 1px solid var(--line);
  padding-top: var(--space-2);
}
</style>
