<script setup lang="ts">
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable from "primevue/datatable";

import type { Intake } from "@/api/types";
import type { useIntakes } from "@/api/queries";
import { whenOf } from "@/app/when";
import StateView from "@/parts/StateView.vue";

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
  <section aria-label="Taken in so far">
    <h2>Taken in so far</h2>
    <StateView :query="intakes" :rows="3" height="1.6rem" :empty="intakes.data.value?.length === 0">
      <template #empty><p class="soft">Nothing yet.</p></template>
      <p v-if="intakes.data.value?.some((one) => one.state === 'sorted')" class="soft">
        <RouterLink :to="{ name: 'habit', params: { slug } }">File names</RouterLink>: what each suffix means,
        to confirm or change for all its files at once.
      </p>
      <DataTable :value="intakes.data.value ?? []" data-key="id">
        <Column field="name" header="Name" />
        <Column header="When">
          <template #body="{ data }: { data: Intake }">{{ whenOf(data.created) }}</template>
        </Column>
        <Column field="files" header="Files" />
        <Column header="Not readable">
          <template #body="{ data }: { data: Intake }">{{ data.refused || "none" }}</template>
        </Column>
        <Column header="State">
          <template #body="{ data }: { data: Intake }">
            <span class="row">
              {{ STATES[data.state] ?? data.state }}
              <template
                v-if="mayPrepare && (data.state === 'failed' || data.state === 'open') && sending !== data.id"
              >
                <Button text label="Sort now" @click="emit('sort', data.id)" />
                <Button text severity="secondary" label="Discard" @click="emit('discard', data.id)" />
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
