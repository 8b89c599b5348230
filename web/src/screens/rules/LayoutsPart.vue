<script setup lang="ts">
import { computed, ref } from "vue";

import { useRuleChanges } from "@/api/ruleChanges";
import {
  type Channels,
  type LayoutDocument,
  type TargetDocument,
  useRules,
  type Rule,
  type RuleBody,
} from "@/api/rules";
import type { Project } from "@/api/types";

import ChannelLanes from "./ChannelLanes.vue";
import SaveBar from "./SaveBar.vue";
import LivePicture from "./LivePicture.vue";
import RuleList from "./RuleList.vue";
import ShownOn from "./ShownOn.vue";
import { useEdited } from "./useEdited";
import { useLivePicture } from "./useLivePicture";
import { useSample } from "./useSample";

/** Which source goes into which channel: layouts to copy into targets and to give to the command line. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "layout");
const changes = useRuleChanges(() => props.slug);
const picked = ref("");
const rule = computed(() => {
  const all = rules.data.value ?? [];
  return all.find((one) => one.name === (picked.value || "occlusion-roughness-metallic")) ?? all[0] ?? null;
});
const { document, dirty, discard, set, keep } = useEdited<LayoutDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("layout", rule.value!.name, next, before);
const channels = computed<Channels>({
  get: () => document.value?.channels ?? { r: { missing: 0 } },
  set: (next) => set({ channels: next }),
});
const { sets, sample, roles, choose } = useSample(() => props.slug);
const label = (role?: string) => roles.value.find((one) => one.key === role)?.label ?? "constant";
const spelled = (of: Channels) =>
  Object.entries(of)
    .map(([letter, source]) => `${letter.toUpperCase()} ${label(source.role).toLowerCase()}`)
    .join(", ");
/** A target of this layout alone, to look at what it makes. */
const target = computed<TargetDocument>(() => ({
  format: "fair-texel/target",
  version: 1,
  name: "layout",
  green: "up",
  names: { pattern: "{set}" },
  material: null,
  outputs: [
    {
      output: "layout",
      channels: channels.value,
      colour_space: "linear",
      container: Object.keys(channels.value).length === 2 ? "exr" : "png",
      bits: Object.keys(channels.value).length === 2 ? 32 : 8,
    },
  ],
}));
const { results, problem } = useLivePicture(
  () => props.slug,
  () => sample.value?.id ?? null,
  () => target.value,
  () => "layout",
);
</script>

<template>
  <div class="layouts">
    <RuleList
      v-slot="{ rule: one }"
      kind="layout"
      :slug="slug"
      :rules="rules.data.value ?? []"
      :open="rule"
      :may-rule="mayRule"
      @pick="picked = $event"
    >
      <span class="soft">{{ spelled((one.document as LayoutDocument).channels) }}</span>
    </RuleList>
    <section v-if="rule && document" class="scroll editor">
      <SaveBar
        kind="layout"
        :slug="slug"
        :rule="rule"
        :dirty="dirty"
        :busy="changes.busy.value"
        :may-change="mayRule"
        @keep="keep(put)"
        @discard="discard"
      />
      <h1>{{ rule.title }}</h1>
      <div class="both">
        <ChannelLanes
          v-model:channels="channels"
          :slug="slug"
          :sample="sample"
          :results="results"
          :roles="roles"
          :may-change="mayRule"
        />
        <div>
          <LivePicture :address="results[''] ?? null" :problem="problem" />
          <ShownOn :sets="sets" :sample="sample" @choose="choose" />
        </div>
      </div>
    </section>
  </div>
</template>

<style scoped>
.layouts {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr);
}
.editor {
  padding: 8px 16px;
  display: grid;
  gap: 10px;
  align-content: start;
}
.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 24px;
}
</style>
