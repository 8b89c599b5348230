<script setup lang="ts">
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable from "primevue/datatable";

import { useSendings, useWebhookChanges } from "@/api/webhooks";
import { whenOf } from "@/app/when";
import Mark from "@/parts/Mark.vue";
import { t } from "@/texts/team";

/** What an address was told, and what it answered. */
const props = defineProps<{ slug: string; webhook: number }>();
const sendings = useSendings(
  () => props.slug,
  () => props.webhook,
);
const changes = useWebhookChanges(() => props.slug);
</script>

<template>
  <DataTable :value="sendings.data.value ?? []" size="small" data-test="sendings">
    <Column :header="t('when')">
      <template #body="{ data }">{{ whenOf(data.created) }}</template>
    </Column>
    <Column field="event" :header="t('event')" />
    <Column :header="t('answered')">
      <template #body="{ data }">
        <Mark :severity="data.done ? 'fine' : data.attempts ? 'error' : 'judging'" />
        {{ data.status ?? "–" }} {{ data.answer }}
      </template>
    </Column>
    <Column field="attempts" :header="t('attempts')" />
    <Column :header="t('actions')">
      <template #body="{ data }">
        <Button
          size="small"
          severity="secondary"
          :label="t('sendAgain')"
          :aria-label="t('sendAgainOf', { event: data.event, number: data.id })"
          @click="changes.again(webhook, data.id)"
        />
      </template>
    </Column>
    <template #empty>{{ t("nothingToldYet") }}</template>
  </DataTable>
</template>
