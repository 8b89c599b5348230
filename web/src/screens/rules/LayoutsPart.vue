<script setup lang="ts">
import { computed } from "vue";

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
import { useAddress } from "@/app/useAddress";
import { t } from "@/texts/rules";

import ChannelLanes from "./ChannelLanes.vue";
import LivePicture from "./LivePicture.vue";
import ShownOn from "./ShownOn.vue";
import RuleShelf from "./RuleShelf.vue";
import { useEdited } from "./useEdited";
import { useLivePicture } from "./useLivePicture";
import { useSample } from "./useSample";

/** Which source goes into which channel: layouts to copy into targets and to give to the command line. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "layout");
const changes = useRuleChanges(() => props.slug);
const picked = useAddress<string>("open", "");
const rule = computed(() => {
  const all = rules.data.value ?? [];
  return all.find((one) => one.name === (picked.value || "occlusion-roughness-metallic")) ?? all[0] ?? null;
});
const { document, dirty, discard, set, save } = useEdited<LayoutDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("layout", rule.value!.name, next, before);
const channels = computed<Channels>({
  get: () => document.value?.channels ?? { r: { missing: 0 } },
  set: (next) => set({ channels: next }),
});
const { sets, sample, roles, choose } = useSample(() => props.slug);
const label = (role?: string) => roles.value.find((one) => one.key === role)?.label ?? t("constant");
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
  <RuleShelf
    kind="layout"
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
      <span class="soft">{{ spelled((one.document as LayoutDocument).channels) }}</span>
    </template>
    <template v-if="rule && document">
      <h2>{{ rule.title }}</h2>
      <div class="both">
        <ChannelLanes
          v-model:channels="channels"
          :slug="slug"
          :sample="sample"
          :results="results"
          :roles="roles"
          :may-change="mayRule"
        />
        <div class="right">
          <LivePicture :address="results[''] ?? null" :problem="problem" />
          <ShownOn :sets="sets" :sample="sample" @choose="choose" />
        </div>
      </div>
    </template>
  </RuleShelf>
</template>

<style scoped>
.right {
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: var(--space-5);
}
@media (max-width: 1100px) {
  .both {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
