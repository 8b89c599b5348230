<script setup lang="ts">
import Tab from "primevue/tab";
import TabList from "primevue/tablist";
import TabPanel from "primevue/tabpanel";
import TabPanels from "primevue/tabpanels";
import Tabs from "primevue/tabs";
import { computed } from "vue";
import { useRoute, useRouter } from "vue-router";

import { may } from "@/api/people";
import { useProject } from "@/api/queries";
import { useKeys } from "@/app/keys";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/rules";

import BudgetPart from "./BudgetPart.vue";
import FormatsPart from "./FormatsPart.vue";
import LayoutsPart from "./LayoutsPart.vue";
import LicencesPart from "./LicencesPart.vue";
import MirrorPart from "./MirrorPart.vue";
import ModelsPart from "./ModelsPart.vue";
import NamesPart from "./NamesPart.vue";
import PeoplePart from "./PeoplePart.vue";
import TargetsPart from "./TargetsPart.vue";
import WebhooksPart from "./WebhooksPart.vue";

/** A project's conventions in one place: what engines want, how channels are packed, names, formats, budgets. */
const props = defineProps<{ slug: string }>();
const route = useRoute();
const router = useRouter();
const project = useProject(() => props.slug);
const mayRule = computed(() => may(project.data.value?.right, "rules"));
const mayPrepare = computed(() => (project.data.value?.right ?? "look") !== "look");

const parts = [
  { key: "targets", label: t("targets"), help: t("whatEachEngineWantsOfThe"), of: TargetsPart },
  { key: "layouts", label: t("layouts"), help: t("whichMapGoesIntoWhichChannel"), of: LayoutsPart },
  { key: "names", label: t("names"), help: t("howFilesAreCalled"), of: NamesPart },
  {
    key: "formats",
    label: t("formats"),
    help: t("whatMayBeCompressedHowAnd"),
    of: FormatsPart,
  },
  { key: "budget", label: t("budget2"), help: t("graphicsMemoryAndWhatToShrink"), of: BudgetPart },
  { key: "licences", label: t("licences"), help: t("whichLicencesTheProjectAccepts"), of: LicencesPart },
  { key: "mirror", label: t("mirror"), help: t("howEnginesReadFiles"), of: MirrorPart },
  { key: "models", label: t("models"), help: t("densityAndGapsOfModels"), of: ModelsPart },
  { key: "webhooks", label: t("webhooks"), help: t("whoIsToldOutside"), of: WebhooksPart },
  { key: "people", label: t("people"), help: t("whoMayDoWhat"), of: PeoplePart },
];
const now = computed(() => parts.find((one) => one.key === route.params.part) ?? parts[0]!);
const go = (key: number | string) =>
  void router.replace({ name: "rules", params: { slug: props.slug, part: String(key) } });
/** The tenth has the key after 9. */
const keyOf = (index: number) => String((index + 1) % 10);
useKeys(
  t("houseRules"),
  parts.map((one, index) => ({ key: keyOf(index), does: one.label, run: () => go(one.key) })),
);
</script>

<template>
  <Tabs class="screen" :value="now.key" scrollable @update:value="go">
    <ScreenHead :title="t('houseRules')" :state="now.help">
      <template #filters>
        <TabList>
          <Tab v-for="(part, index) in parts" :key="part.key" :value="part.key">
            {{ part.label }} <kbd>{{ keyOf(index) }}</kbd>
          </Tab>
        </TabList>
      </template>
    </ScreenHead>
    <TabPanels>
      <TabPanel v-for="part in parts" :key="part.key" :value="part.key">
        <StateView v-if="part.key === now.key" :query="project">
          <component
            :is="part.of"
            class="part"
            :slug="slug"
            :project="project.data.value!"
            :may-rule="mayRule"
            :may-prepare="mayPrepare"
          />
        </StateView>
      </TabPanel>
    </TabPanels>
  </Tabs>
</template>

<style scoped>
.screen :deep(.p-tabpanels) {
  flex: 1;
  min-height: 0;
  padding: 0;
  background: none;
  color: inherit;
}
.screen :deep(.p-tabpanel) {
  height: 100%;
  padding: 0;
  display: flex;
  flex-direction: column;
}
.screen :deep(.p-tabpanel > *) {
  flex: 1;
  min-height: 0;
}
.screen :deep(.p-tabpanel > .told),
.screen :deep(.p-tabpanel > .loading) {
  flex: none;
}
</style>
