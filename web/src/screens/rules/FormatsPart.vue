<script setup lang="ts">
import { computed } from "vue";

import { useCatalogue } from "@/api/queries";
import { useRuleChanges } from "@/api/ruleChanges";
import { type FormatsDocument, useRules, type Rule, type RuleBody } from "@/api/rules";
import type { Project } from "@/api/types";
import NumberField from "@/parts/fields/NumberField.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/rules";

import AllowedFormats from "./AllowedFormats.vue";
import SaveBar from "./SaveBar.vue";
import { useEdited } from "./useEdited";

/** Which formats the project allows for what, and the most error it accepts. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "formats");
const catalogue = useCatalogue();
const changes = useRuleChanges(() => props.slug);
const rule = computed(() => rules.data.value?.[0] ?? null);
const { document, dirty, discard, set, save } = useEdited<FormatsDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("formats", rule.value!.name, next, before);

type Allowed = FormatsDocument["allowed"];
const LIMITS: [keyof FormatsDocument["limits"], string, string][] = [
  ["colour", t("colourDifference"), t("ciede2000AtThe99thPercentileAbout")],
  ["normal", t("angleOfNormals"), t("degreesAtThe99thPercentile")],
  ["mask", t("differenceOfOneChannel"), t("ofFullScaleAtThe99th")],
  ["coverage", t("coverageOfCutOuts"), t("changeInTheShareOfTexels")],
];
type SheetLimit = keyof NonNullable<FormatsDocument["sheets"]>;
const SHEETS: [SheetLimit, string, string][] = [
  ["reads", t("textureReads"), t("inTheShaderOfAMaster")],
  ["samplers", t("samplers"), t("distinctOnes")],
  ["arithmetic", t("arithmetic"), t("operations")],
  ["variants", t("variants"), t("shadersThatSwitchesAndChoicesMake")],
];
function sheetLimit(key: SheetLimit, value: number | null): void {
  const sheets = { ...(document.value!.sheets ?? {}) };
  if (value !== null) sheets[key] = value;
  else delete sheets[key];
  set({ sheets });
}
const allow = (sort: keyof Allowed, formats: string[]) =>
  set({ allowed: { ...document.value!.allowed, [sort]: formats } });
const limit = (key: string, value: number | null) =>
  value !== null && set({ limits: { ...document.value!.limits, [key]: value } });
</script>

<template>
  <StateView :query="rules">
    <div class="formats scroll">
      <SaveBar
        v-if="rule"
        kind="formats"
        :slug="slug"
        :rule="rule"
        :dirty="dirty"
        :busy="changes.busy.value"
        :may-change="mayRule"
        @save="save(put)"
        @discard="discard"
      />
      <template v-if="document">
        <section>
          <h2>{{ t("allowedFormats") }}</h2>
          <p class="soft">
            {{ t("forEachKindOfMapThe") }}
          </p>
          <AllowedFormats
            :allowed="document.allowed"
            :sorts="catalogue.data.value?.sorts ?? []"
            :formats="catalogue.data.value?.formats ?? []"
            :may-change="mayRule"
            @change="allow"
          />
        </section>
        <section>
          <h2>{{ t("maximumError") }}</h2>
          <div class="limits">
            <template v-for="[key, label, help] in LIMITS" :key="key">
              <span>{{ label }}</span>
              <NumberField
                :label="label"
                :value="document.limits[key]"
                :min="0"
                :step="key === 'mask' || key === 'coverage' ? 0.01 : 0.5"
                :disabled="!mayRule"
                @change="limit(key, $event)"
              />
              <span class="soft">{{ help }}</span>
            </template>
          </div>
        </section>
        <section>
          <h2>{{ t("maximumCostOfAMaster") }}</h2>
          <div class="limits">
            <template v-for="[key, label, help] in SHEETS" :key="key">
              <span>{{ label }}</span>
              <NumberField
                :label="label"
                :value="document.sheets?.[key]"
                :min="0"
                :digits="0"
                optional
                :placeholder="t('noLimit')"
                :disabled="!mayRule"
                @change="sheetLimit(key, $event)"
              />
              <span class="soft">{{ help }}</span>
            </template>
          </div>
        </section>
      </template>
    </div>
  </StateView>
</template>

<style scoped>
.formats {
  padding: var(--space-2) var(--space-4);
  display: grid;
  gap: var(--space-4);
  align-content: start;
}
section {
  display: grid;
  gap: var(--space-2);
}
.limits :deep(.number-field) {
  width: 7rem;
}
.limits {
  display: grid;
  grid-template-columns: 13rem 7rem minmax(0, 1fr);
  gap: var(--space-1) var(--space-3);
  align-items: center;
}
</style>
