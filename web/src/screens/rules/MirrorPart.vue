<script setup lang="ts">
import { computed } from "vue";

import { useSets } from "@/api/queries";
import { useRuleChanges } from "@/api/ruleChanges";
import { type MirrorDocument, useRules, type Rule, type RuleBody } from "@/api/rules";
import type { Project } from "@/api/types";
import { useAddress } from "@/app/useAddress";
import CheckField from "@/parts/fields/CheckField.vue";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import NumberField from "@/parts/fields/NumberField.vue";
import { t } from "@/texts/rules";

import MirrorLines from "./MirrorLines.vue";
import RuleShelf from "./RuleShelf.vue";
import { useEdited } from "./useEdited";

/** How engines read files that come without explanation: what the mirror reads deliveries by. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "mirror");
const setList = useSets(() => props.slug);
const changes = useRuleChanges(() => props.slug);
const picked = useAddress<string>("open", "");
const rule = computed(() => {
  const all = rules.data.value ?? [];
  return all.find((one) => one.name === picked.value) ?? all[0] ?? null;
});
const { document, dirty, discard, set, save } = useEdited<MirrorDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("mirror", rule.value!.name, next, before);
type Space = MirrorDocument["space"];
const setSpace = (change: Partial<Space>) => set({ space: { ...document.value!.space, ...change } });
const GREEN: { value: MirrorDocument["green"]; label: string }[] = [
  { value: "up", label: t("greenUp") },
  { value: "down", label: t("greenDown") },
];
const SPACES: { value: Space["unknown"]; label: string }[] = [
  { value: "srgb", label: t("srgbColour") },
  { value: "linear", label: t("dataLinear") },
];
const compression = computed(() =>
  (document.value?.compress ?? [])
    .map(
      (one) =>
        `${one.roles?.join(", ").replaceAll("_", " ") ?? t("everythingElse")}: ${one.format.toUpperCase()}`,
    )
    .join("; "),
);
</script>

<template>
  <RuleShelf
    kind="mirror"
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
      <span class="soft mono">{{ one.name }}</span>
    </template>
    <template v-if="rule && document">
      <h2>{{ rule.title }}</h2>
      <p class="soft">{{ t("aTargetNamesTheHabits") }}</p>
      <div class="fields">
        <span>{{ t("greenOfNormals") }}</span>
        <ChoiceField
          :model-value="document.green"
          :options="GREEN"
          :label="t('greenOfNormals')"
          :disabled="!mayRule"
          @update:model-value="$event && set({ green: $event })"
        />
        <span>{{ t("colourOrData") }}</span>
        <span class="checks">
          <CheckField
            :model-value="document.space.manifest ?? false"
            :label="t('asksTheManifest')"
            :disabled="!mayRule"
            @update:model-value="setSpace({ manifest: Boolean($event) })"
          />
          <CheckField
            :model-value="document.space.tags ?? false"
            :label="t('obeysTheFilesTag')"
            :disabled="!mayRule"
            @update:model-value="setSpace({ tags: Boolean($event) })"
          />
          <CheckField
            :model-value="document.space.roles ?? true"
            :label="t('goesByTheRole')"
            :disabled="!mayRule"
            @update:model-value="setSpace({ roles: Boolean($event) })"
          />
        </span>
        <span>{{ t("otherwiseTakenFor") }}</span>
        <ChoiceField
          :model-value="document.space.unknown"
          :options="SPACES"
          :label="t('otherwiseTakenFor')"
          :disabled="!mayRule"
          @update:model-value="$event && setSpace({ unknown: $event })"
        />
        <span>{{ t("longestSideItKeeps") }}</span>
        <NumberField
          :value="document.largest"
          :label="t('longestSideItKeeps')"
          :min="1"
          :max="65536"
          :digits="0"
          optional
          :placeholder="t('noLimit')"
          :disabled="!mayRule"
          @change="set({ largest: $event ?? undefined })"
        />
        <template v-if="compression">
          <span>{{ t("compression") }}</span><span>{{ compression }}</span>
        </template>
      </div>
      <MirrorLines
        :lines="document.reads ?? []"
        :common="document.common_names ?? false"
        :roles="setList.data.value?.roles ?? []"
        :may-change="mayRule"
        @change="set({ reads: $event })"
        @common="set({ common_names: $event })"
      />
    </template>
  </RuleShelf>
</template>

<style scoped>
.fields :deep(.p-select) {
  max-width: 22rem;
}
.checks {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-3);
}
</style>
