<script setup lang="ts">
import Message from "primevue/message";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed } from "vue";

import { useSets } from "@/api/queries";
import { useRuleChanges } from "@/api/ruleChanges";
import { type LicencesDocument, type Terms, type Use, useRules, type Rule, type RuleBody } from "@/api/rules";
import type { Project } from "@/api/types";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/rules";

import CopyFrom from "./CopyFrom.vue";
import LicenceGroups from "./LicenceGroups.vue";
import LicenceTerms from "./LicenceTerms.vue";
import SaveBar from "./SaveBar.vue";
import { useEdited } from "./useEdited";

/** Which licences the project accepts, beside the licences of its sets. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const rules = useRules(() => props.slug, "licences");
const setList = useSets(() => props.slug);
const changes = useRuleChanges(() => props.slug);
const rule = computed(() => rules.data.value?.[0] ?? null);
const { document, dirty, discard, set, save } = useEdited<LicencesDocument>(() => rule.value);
const put = (next: RuleBody, before: Rule | null) => changes.put("licences", rule.value!.name, next, before);

const UNKNOWN: { value: NonNullable<LicencesDocument["unknown"]>; label: string }[] = [
  { value: "error", label: t("anErrorNotDelivered") },
  { value: "warning", label: t("aWarning") },
  { value: "note", label: t("aNote") },
];
const terms = computed(() => document.value?.terms ?? []);
const twice = computed(() => {
  const names = terms.value.map((one) => one.licence.toLowerCase());
  return names.find((name, at) => names.indexOf(name) < at) ?? null;
});
const setTerms = (next: Terms[]) => set({ terms: next });
function name(licence: string, use: Use): void {
  setTerms([...terms.value.filter((one) => one.licence !== licence), { licence, use }]);
}
</script>

<template>
  <StateView :query="rules">
    <Splitter state-key="rule-licences" state-storage="local">
      <SplitterPanel :size="55" :min-size="35" class="scroll">
        <section class="left" :aria-label="t('acceptedLicences')">
          <SaveBar
            v-if="rule"
            kind="licences"
            :slug="slug"
            :rule="rule"
            :dirty="dirty || rule.number === 0"
            :busy="changes.busy.value || twice !== null"
            :may-change="mayRule"
            @save="save(put)"
            @discard="discard"
          />
          <p v-if="rule?.number === 0" class="soft">
            {{ t("aProposalItCountsOnceYou") }}
          </p>
          <Message v-if="twice" severity="error" :closable="false" role="alert">
            {{ t("isListedTwiceRemoveOneOf", { twice }) }}
          </Message>
          <template v-if="document">
            <div class="fields">
              <span>{{ t("aSetWithoutALicenceIs") }}</span>
              <ChoiceField
                :label="t('aSetWithoutALicenceIs')"
                :model-value="document.unknown ?? 'warning'"
                :options="UNKNOWN"
                :disabled="!mayRule"
                @update:model-value="$event && set({ unknown: $event })"
              />
            </div>
            <LicenceTerms :terms="terms" :may-change="mayRule" @change="setTerms" />
          </template>
          <CopyFrom
            v-if="mayRule && rule"
            class="copy"
            :slug="slug"
            kind="licences"
            @copy="(project, from) => changes.copy('licences', project, from)"
          />
        </section>
      </SplitterPanel>
      <SplitterPanel :size="45" :min-size="25" class="scroll">
        <LicenceGroups
          :slug="slug"
          :sets="setList.data.value?.sets ?? []"
          :terms="terms"
          :may-change="mayPrepare"
          :may-rule="mayRule"
          @name="name"
        />
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
.copy {
  justify-self: start;
}
</style>
