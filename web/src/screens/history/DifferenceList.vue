<script setup lang="ts">
import { computed, ref } from "vue";

import { type Difference, useDifferences } from "@/api/history";
import FilePair from "@/parts/FilePair.vue";
import PairLook from "@/parts/PairLook.vue";
import StateView from "@/parts/StateView.vue";
import { valueWords } from "@/parts/valueWords";
import { t } from "@/texts/history";

/** What one change did, field by field; maps whose steps changed as pictures of before and after. */
const props = defineProps<{ slug: string; line: number }>();
const differences = useDifferences(
  () => props.slug,
  () => props.line,
);
const maps = computed(() => differences.data.value?.filter((one) => one.map !== null) ?? []);
const fields = computed(() => differences.data.value?.filter((one) => one.map === null) ?? []);
const looked = ref<Difference | null>(null);

/** The map as these steps leave it. */
function picture(one: Difference, recipe: unknown): string | null {
  if (one.map === null || !Array.isArray(recipe)) return null;
  const query = new URLSearchParams({ recipe: JSON.stringify(recipe), side: "256" });
  return `/api/projects/${props.slug}/maps/${one.map}/preview?${query}`;
}
const pathOf = (one: Difference) => t("pictureOf", { called: one.called, field: one.field });
const pair = (one: Difference) => ({
  path: pathOf(one),
  before: picture(one, one.before),
  after: picture(one, one.after),
  beforeLabel: t("before"),
  afterLabel: t("after"),
});
</script>

<template>
  <StateView :query="differences" :rows="2" :empty="differences.data.value?.length === 0">
    <template #empty>
      <p class="soft">{{ t("nothingToCompare") }}</p>
    </template>
    <div class="pairs">
      <FilePair
        v-for="one in maps"
        :key="`${one.kind} ${one.key}`"
        v-bind="pair(one)"
        words=""
        @look="looked = one"
      />
    </div>
    <dl>
      <template v-for="one in fields" :key="`${one.kind} ${one.key} ${one.field}`">
        <dt>
          {{ one.called }} <span class="soft">{{ one.field }}</span>
        </dt>
        <dd v-if="one.field">
          <span class="soft">{{ valueWords(one.before) }}</span> → {{ valueWords(one.after) }}
        </dd>
        <dd v-else class="soft">{{ one.before === null ? t("cameNew") : t("wasRemoved") }}</dd>
      </template>
    </dl>
    <PairLook v-if="looked" v-bind="pair(looked)" @close="looked = null" />
  </StateView>
</template>

<style scoped>
.pairs {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(20rem, 1fr));
  gap: var(--space-3);
}
dl {
  display: grid;
  grid-template-columns: minmax(10rem, max-content) 1fr;
  gap: 2px var(--space-4);
  margin: var(--space-1) 0 var(--space-2);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
