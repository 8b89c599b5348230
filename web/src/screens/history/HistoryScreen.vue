<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import { computed, ref } from "vue";
import { useRouter } from "vue-router";

import { type HistoryLine, useHistory } from "@/api/history";
import { useKeys } from "@/app/keys";
import { useAddress } from "@/app/useAddress";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/history";

import HistoryRow from "./HistoryRow.vue";

/**
 * Who did what and when, in the project or in the library that all projects share, filtered by person, object, kind,
 * words and time; the filters stand in the address.
 */
const props = defineProps<{ slug: string }>();
const where = useAddress<"project" | "library">("of", "project");
const person = useAddress("person", "");
const kind = useAddress("kind", "");
const about = useAddress("about", "");
const text = useAddress("text", "");
const days = useAddress<"" | "1" | "7" | "30">("days", "");
const opened = ref<number | null>(null);
const at = ref(0);

const DAY_MS = 86_400_000;
const started = Date.now();
const filter = computed(() => ({
  person: person.value,
  kind: kind.value,
  about: about.value,
  text: text.value,
  since: days.value ? new Date(started - Number(days.value) * DAY_MS).toISOString() : "",
}));
const history = useHistory(() => (where.value === "library" ? null : props.slug), filter);
const lines = computed(() => history.data.value?.pages.flatMap((page) => page.lines) ?? []);
const byDay = computed(() => {
  const found = new Map<string, HistoryLine[]>();
  for (const one of lines.value) {
    const day = new Date(one.at).toLocaleDateString([], { dateStyle: "full" });
    found.set(day, [...(found.get(day) ?? []), one]);
  }
  return [...found];
});
const people = computed(() => [
  { value: "", label: t("everybody") },
  ...(history.data.value?.pages[0]?.people ?? []).map((name) => ({ value: name, label: name })),
]);
const PLACES = [
  { value: "project" as const, label: t("thisProject") },
  { value: "library" as const, label: t("libraryOfAllProjects") },
];
const SHARED = [
  { value: "", label: t("anyKind") },
  { value: "masters", label: t("masters") },
  { value: "functions", label: t("functions") },
];
const KINDS = [
  { value: "", label: t("anyKind") },
  { value: "sets", label: t("sets") },
  { value: "placements", label: t("maps") },
  { value: "files", label: t("files") },
  { value: "waivers", label: t("waivers") },
  { value: "casts", label: t("casts") },
  { value: "meshes", label: t("models") },
  { value: "grounds", label: t("grounds") },
  { value: "rules", label: t("rules") },
  { value: "delivery", label: t("deliveries") },
  { value: "intakes", label: t("intakes") },
  { value: "members", label: t("members") },
];
const TIMES = [
  { value: "" as const, label: t("anyTime") },
  { value: "1" as const, label: t("lastDay") },
  { value: "7" as const, label: t("lastWeek") },
  { value: "30" as const, label: t("lastMonth") },
];
const filtered = computed(() => Object.values(filter.value).some(Boolean));
/** The object that all lines are about, as it is called now. */
const object = computed(() => {
  const found = lines.value
    .flatMap((one) => one.about)
    .find((one) => `${one.kind}:${one.key}` === about.value);
  return about.value ? t("of", { name: found?.called ?? about.value }) : t("whoDidWhat");
});
const toggle = (line: HistoryLine | undefined) => {
  if (line?.has_more) opened.value = opened.value === line.id ? null : line.id;
};
function move(step: number): void {
  at.value = Math.max(0, Math.min(lines.value.length - 1, at.value + step));
  document.querySelector(`[data-line="${lines.value[at.value]?.id}"]`)?.scrollIntoView({ block: "nearest" });
}
useKeys(t("history"), [
  { key: "J ArrowDown", shown: "J / ↓", does: t("next"), run: () => move(1) },
  { key: "K ArrowUp", shown: "K / ↑", does: t("previous"), run: () => move(-1) },
  { key: "Enter", does: t("openClose"), run: () => toggle(lines.value[at.value]) },
]);

const router = useRouter();
</script>

<template>
  <div class="screen">
    <ScreenHead :title="t('history')" :state="object">
      <template #filters>
        <ChoiceField
          :model-value="where"
          :options="PLACES"
          :label="t('whoseHistory')"
          @update:model-value="router.replace({ query: $event === 'library' ? { of: 'library' } : {} })"
        />
        <InputText v-model.lazy="text" :placeholder="t('find')" :aria-label="t('find')" />
        <ChoiceField v-model="person" :options="people" :label="t('person')" />
        <ChoiceField
          v-model="kind"
          :options="where === 'library' ? SHARED : KINDS"
          :label="t('kindOfObject')"
        />
        <ChoiceField v-model="days" :options="TIMES" :label="t('time')" />
        <Button
          v-if="filtered"
          text
          severity="secondary"
          :label="t('everything')"
          @click="router.replace({ query: {} })"
        />
      </template>
    </ScreenHead>
    <div class="scroll content" tabindex="0" role="region" :aria-label="t('history')">
      <StateView :query="history" :empty="lines.length === 0">
        <template #empty>
          <p class="soft">{{ t("nothingFound") }}</p>
        </template>
        <section v-for="[day, some] in byDay" :key="day">
          <h2>{{ day }}</h2>
          <ol>
            <HistoryRow
              v-for="one in some"
              :key="one.id"
              :slug="slug"
              :line="one"
              :open="opened === one.id"
              :here="lines[at]?.id === one.id"
              @toggle="toggle(one)"
            />
          </ol>
        </section>
        <Button
          v-if="history.hasNextPage.value"
          severity="secondary"
          :label="t('older')"
          :loading="history.isFetchingNextPage.value"
          @click="history.fetchNextPage()"
        />
      </StateView>
    </div>
  </div>
</template>

<style scoped>
.content {
  flex: 1;
  padding: var(--space-3) var(--space-4);
}
ol {
  list-style: none;
  margin: 0 0 var(--space-4);
  padding: 0;
}
h2 {
  font-size: inherit;
  margin-bottom: var(--space-1);
}
</style>
