<script setup lang="ts">
import { computed } from "vue";

import { useRuleChanges } from "@/api/ruleChanges";
import { type ModelsDocument, type Rule, type RuleBody, useRules } from "@/api/rules";
import type { Project } from "@/api/types";
import NumberField from "@/parts/fields/NumberField.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/rules";

import CopyFrom from "./CopyFrom.vue";
import SaveBar from "./SaveBar.vue";
import { useEdited } from "./useEdited";

/** What the house asks of models; what is left empty is not checked. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "models");
const changes = useRuleChanges(() => props.slug);
const rule = computed(() => rules.data.value?.[0] ?? null);
const { document, dirty, discard, set, save } = useEdited<ModelsDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("models", rule.value!.name, next, before);
const FACTOR = 2;
const SIDE = 1024;
const wanted = (texels: number | null) =>
  set({
    density: texels === null ? undefined : { texels, factor: document.value?.density?.factor ?? FACTOR },
  });
const allowed = (factor: number | null) =>
  document.value?.density && factor !== null && set({ density: { ...document.value.density, factor } });
const gap = (texels: number | null) =>
  set({ gap: texels === null ? undefined : { texels, side: document.value?.gap?.side ?? SIDE } });
</script>

<template>
  <StateView :query="rules">
    <section class="part scroll" :aria-label="t('whatModelsShallBe')">
      <SaveBar
        v-if="rule"
        kind="models"
        :slug="slug"
        :rule="rule"
        :dirty="dirty"
        :busy="changes.busy.value"
        :may-change="mayRule"
        @save="save(put)"
        @discard="discard"
      />
      <p class="soft">{{ t("whatIsEmptyIsNotChecked") }}</p>
      <div v-if="document" class="fields">
        <span>{{ t("wantedDensity") }}</span>
        <NumberField
          :value="document.density?.texels ?? null"
          :label="t('wantedDensity')"
          :min="1"
          :max="1000000"
          :digits="1"
          :disabled="!mayRule"
          optional
          @change="wanted"
        />
        <template v-if="document.density">
          <span>{{ t("atMostTimes") }}</span>
          <NumberField
            :value="document.density.factor"
            :label="t('atMostTimes')"
            :min="1"
            :max="100"
            :step="0.5"
            :digits="2"
            :disabled="!mayRule"
            @change="allowed"
          />
        </template>
        <span>{{ t("mostMaterials") }}</span>
        <NumberField
          :value="document.materials ?? null"
          :label="t('mostMaterials')"
          :min="1"
          :max="1000"
          :digits="0"
          :disabled="!mayRule"
          optional
          @change="set({ materials: $event ?? undefined })"
        />
        <span>{{ t("leastGap", { side: document.gap?.side ?? SIDE }) }}</span>
        <NumberField
          :value="document.gap?.texels ?? null"
          :label="t('leastGap', { side: document.gap?.side ?? SIDE })"
          :min="0"
          :max="1000"
          :digits="1"
          :unit="t('texels')"
          :disabled="!mayRule"
          optional
          @change="gap"
        />
      </div>
      <CopyFrom
        v-if="mayRule && rule"
        class="copy"
        :slug="slug"
        kind="models"
        @copy="(project, from) => changes.copy('models', project, from)"
      />
    </section>
  </StateView>
</template>

<style scoped>
.part {
  padding: var(--space-3) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
}
.copy {
  justify-self: start;
}
</style>
