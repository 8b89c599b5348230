<script setup lang="ts">
import Panel from "primevue/panel";
import { computed } from "vue";

import { useIntakes, useOverview, useTargets } from "@/api/queries";
import { t } from "@/texts/overview";

/** What to do until the first delivery, step by step; each leads to its place. */
const props = defineProps<{ slug: string; sets: number }>();
const intakes = useIntakes(() => props.slug);
const targets = useTargets(() => props.slug);
const overview = useOverview(() => props.slug);
const waiting = computed(() => overview.data.value?.waiting);
const steps = computed(() => [
  {
    title: t("takeInAFolder"),
    text: t("dropTexturesOfAnyOriginOr"),
    done: (intakes.data.value ?? []).some((one) => one.state === "sorted"),
    to: "intake",
  },
  {
    title: t("decideWhatCouldNotBeSorted"),
    text: t("sayWhatASuffixMeansOnce"),
    done: props.sets > 0 && waiting.value?.undecided === 0,
    to: "sets",
  },
  {
    title: t("lookAtErrorsAndWarnings"),
    text: t("eachFindingShowsWhereToLook"),
    done: props.sets > 0 && waiting.value?.errors === 0,
    to: "sets",
  },
  {
    title: t("chooseATarget"),
    text: t("whatYourEngineWantsPackingGreen"),
    done: (targets.data.value ?? []).some((one) => one.own),
    to: "rules",
  },
  {
    title: t("deliver"),
    text: t("seeWhatWillBeWrittenFirst"),
    done: false,
    to: "deliveries",
  },
]);
const next = computed(() => steps.value.findIndex((one) => !one.done));
</script>

<template>
  <Panel data-test="first-steps">
    <template #header
      ><h2>{{ t("firstSteps") }}</h2></template
    >
    <ol>
      <li v-for="(one, at) in steps" :key="one.title" :class="{ done: one.done, next: at === next }">
        <i
          :class="one.done ? 'pi pi-check-circle' : 'pi pi-circle'"
          :aria-label="one.done ? t('done') : t('toDo')"
          role="img"
        />
        <div>
          <RouterLink class="target" :to="{ name: one.to, params: { slug } }">{{ one.title }}</RouterLink>
          <div class="soft">{{ one.text }}</div>
        </div>
      </li>
    </ol>
  </Panel>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(190px, 1fr));
  gap: var(--space-3);
}
li {
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr);
  gap: 6px;
  padding: var(--space-1);
}
.next {
  background: var(--accent-wash);
}
.done a {
  color: var(--ink-soft);
}
i {
  color: var(--accent);
  padding-top: 2px;
}
</style>
