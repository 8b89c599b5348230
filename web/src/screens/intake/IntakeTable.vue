<script setup lang="ts">
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable from "primevue/datatable";

import type { Intake } from "@/api/types";
import type { useIntakes } from "@/api/queries";
import { whenOf } from "@/app/when";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/intake";

/** Everything that was taken in so far. */
defineProps<{
  slug: string;
  intakes: ReturnType<typeof useIntakes>;
  mayPrepare: boolean;
  /** The intake that is still being sent. */
  sending: number | null;
}>();
const emit = defineEmits<{ sort: [pk: number]; discard: [pk: number] }>();
const STATES: Record<string, string> = {
  open: "not finished",
  sorting: "being sorted",
  sorted: "sorted",
  failed: "sorting failed",
};
</script>

<template>
  <section :aria-label="t('takenInSoFar')">
    <h2>{{ t("takenInSoFar") }}</h2>
    <StateView :query="intakes" :rows="3" height="1.6rem" :empty="intakes.data.value?.length === 0">
      <template #empty
        ><p class="soft">{{ t("nothingYet") }}</p></template
      >
      <p v-if="intakes.data.value?.some((one) => one.state === 'sorted')" class="soft">
        <RouterLink :to="{ name: 'habit', params: { slug } }">{{ t("fileNames") }}</RouterLink>{{
          t("whatEachSuffixMeansToConfirm")
        }}
      </p>
      <DataTable :value="intakes.data.value ?? []" data-key="id">
        <Column field="name" :header="t('name')" />
        <Column :header="t('when')">
          <template #body="{ data }: { data: Intake }">{{ whenOf(data.created) }}</template>
        </Column>
        <Column field="files" :header="t('files')" />
        <Column :header="t('notReadable')">
          <template #body="{ data }: { data: Intake }">{{ data.refused || t("none") }}</template>
        </Column>
        <Column :header="t('state')">
          <template #body="{ data }: { data: Intake }">
            <span class="row">
              {{ STATES[data.state] ?? data.state }}
              <template
                v-if="mayPrepare && (data.state === 'failed' || data.state === 'open') && sending !== data.id"
              >
                <Button text :label="t('sortNow')" @click="emit('sort', data.id)" />
                <Button text severity="secondary" :label="t('discard')" @click="emit('discard', data.id)" />
              </template>
            </span>
          </template>
        </Column>
      </DataTable>
    </StateView>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--space-2);
}
</style>
