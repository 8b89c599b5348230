<script setup lang="ts">
import Message from "primevue/message";
import SelectButton from "primevue/selectbutton";
import Splitter from "primevue/splitter";
import SplitterPanel from "primevue/splitterpanel";
import { computed, ref } from "vue";

import { useTargets } from "@/api/queries";
import { useRuleChanges } from "@/api/ruleChanges";
import { memoryWords, useBudget } from "@/api/rules";
import type { Project } from "@/api/types";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import { named } from "@/parts/fields/options";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/rules";

import MemoryBars from "./MemoryBars.vue";
import MemoryScopes from "./MemoryScopes.vue";
import ShrinkFirst from "./ShrinkFirst.vue";
import type { By } from "./memory";

/** What everything takes of graphics memory for a target, drawn to scale; what to shrink to get under the budget. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const MIB = 1 << 20;
const chosen = ref("");
const target = computed(() => chosen.value || props.project.target);
const targets = useTargets(() => props.slug);
const budget = useBudget(() => props.slug, target);
const changes = useRuleChanges(() => props.slug);
type Scope = By | "targets" | "projects";
const SCOPES: { value: Scope; label: string }[] = [
  { value: "set", label: t("sets") },
  { value: "role", label: t("roles") },
  { value: "output", label: t("outputs") },
  { value: "targets", label: t("targets") },
  { value: "projects", label: t("projects") },
];
const scope = ref<Scope>("set");
const by = computed<By | null>(() =>
  scope.value === "targets" || scope.value === "projects" ? null : scope.value,
);
function openTarget(name: string): void {
  chosen.value = name;
  scope.value = "set";
}
const told = computed(() => budget.data.value ?? null);
const limit = computed(() => (told.value?.budget.memory_mib ?? 0) * MIB);
const over = computed(() => Boolean(limit.value) && (told.value?.memory ?? 0) > limit.value);
const scale = computed(() => Math.max(limit.value, told.value?.memory ?? 1));
const share = (bytes: number) => `${(100 * bytes) / scale.value}%`;
</script>

<template>
  <StateView :query="budget">
    <Splitter v-if="told" state-key="rule-budget" state-storage="local">
      <SplitterPanel :size="74" :min-size="40" class="scroll">
        <section class="main" :aria-label="t('memory')">
          <div class="row">
            <ChoiceField
              :model-value="target"
              :options="named(targets.data.value ?? [], 'name', 'title')"
              :label="t('target')"
              @update:model-value="chosen = $event ?? ''"
            />
            <span data-test="total">
              <b>{{ memoryWords(told.memory) }}</b>
              {{ t("withMips")
              }}<template v-if="limit"
                >{{ t("budget", { memory: memoryWords(limit) }) }}
                <b :class="{ error: over }">{{
                  over
                    ? t("over", { memory: memoryWords(told.memory - limit) })
                    : t("left", { memory: memoryWords(limit - told.memory) })
                }}</b></template
              ><template v-else>{{ t("noBudget") }}</template>
            </span>
          </div>
          <Message v-for="one in told.problems" :key="one" severity="warn" :closable="false">{{
            one
          }}</Message>
          <div class="total" aria-hidden="true">
            <span :class="{ over }" :style="{ width: share(told.memory) }" />
            <i v-if="limit" :style="{ left: share(limit) }" />
          </div>
          <SelectButton
            v-model="scope"
            :options="SCOPES"
            option-label="label"
            option-value="value"
            :allow-empty="false"
            :aria-label="t('memoryBy')"
          />
          <MemoryScopes
            v-if="by === null"
            :slug="slug"
            :by="scope as 'targets'"
            :target="target"
            @target="openTarget"
          />
          <MemoryBars v-else :key="by" :slug="slug" :told="told" :by="by" :may-prepare="mayPrepare" />
        </section>
      </SplitterPanel>
      <SplitterPanel :size="26" :min-size="18" class="scroll">
        <ShrinkFirst :told="told" :slug="slug" :may-prepare="mayPrepare" @measure="changes.measure(target)" />
      </SplitterPanel>
    </Splitter>
  </StateView>
</template>

<style scoped>
.main {
  padding: var(--space-2) var(--space-4);
  display: grid;
  gap: var(--space-3);
  align-content: start;
  justify-items: start;
}
.total {
  width: 100%;
  position: relative;
  height: 10px;
  border: 1px solid var(--line-strong);
}
.total span {
  display: block;
  height: 100%;
  background: var(--ink-soft);
}
.total .over {
  background: var(--error);
}
.total i {
  position: absolute;
  top: -4px;
  bottom: -4px;
  width: 2px;
  background: var(--ink);
}
</style>
