<script setup lang="ts">
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable from "primevue/datatable";
import { computed } from "vue";
import { useRouter } from "vue-router";

import { useAccountChanges, useServer } from "@/api/accounts";
import { whenOf } from "@/app/when";
import Mark from "@/parts/Mark.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/team";

/** For whoever runs the server: its parts, what its workers do, jobs that failed. */
const router = useRouter();
const server = useServer();
const changes = useAccountChanges();
const parts = computed(() => server.data.value?.parts ?? []);
const well = computed(() => (parts.value.every((one) => one.well) ? t("allIsWell") : t("somethingIsWrong")));
const waiting = computed(() => server.data.value?.queue.waiting ?? 0);
</script>

<template>
  <main class="screen">
    <ScreenHead :title="t('server')" :state="server.data.value ? well : ''">
      <template #actions>
        <Button
          outlined
          severity="secondary"
          icon="pi pi-arrow-left"
          :label="t('back')"
          @click="router.back()"
        />
      </template>
    </ScreenHead>
    <div class="scroll content" tabindex="0" role="region" :aria-label="t('server')">
      <StateView :query="server">
        <dl data-test="parts">
          <template v-for="one in parts" :key="one.name">
            <dt><Mark :severity="one.well ? 'fine' : 'error'" /> {{ one.name }}</dt>
            <dd>{{ one.says }}</dd>
          </template>
        </dl>
        <h2>{{ t("workers") }}</h2>
        <DataTable :value="server.data.value?.workers ?? []" size="small" data-test="workers">
          <Column field="id" :header="t('worker')" />
          <Column :header="t('doesNow')">
            <template #body="{ data }">{{ data.job ?? t("waits") }}</template>
          </Column>
          <Column :header="t('lastHeard')">
            <template #body="{ data }">{{ whenOf(data.heard) }}</template>
          </Column>
          <template #empty>{{ t("noWorker") }}</template>
        </DataTable>
        <p class="soft">{{ t("jobsWaiting", { count: waiting }) }}</p>
        <h2>{{ t("failedJobs") }}</h2>
        <DataTable :value="server.data.value?.failed ?? []" size="small" data-test="failed">
          <Column field="project" :header="t('project')" />
          <Column field="title" :header="t('job')" />
          <Column field="message" :header="t('why')" />
          <Column :header="t('when')">
            <template #body="{ data }">{{ data.finished ? whenOf(data.finished) : "" }}</template>
          </Column>
          <Column :header="t('actions')">
            <template #body="{ data }">
              <Button
                size="small"
                severity="secondary"
                :label="t('tryAgain')"
                :aria-label="t('tryAgainOf', { title: data.title })"
                @click="changes.retry(data.id)"
              />
            </template>
          </Column>
          <template #empty>{{ t("noJobFailed") }}</template>
        </DataTable>
      </StateView>
    </div>
  </main>
</template>

<style scoped>
.content {
  flex: 1;
  padding: var(--space-3) var(--space-4);
}
dl {
  display: grid;
  grid-template-columns: 10rem 1fr;
  gap: var(--space-1) var(--space-4);
  margin: 0;
}
dd {
  margin: 0;
}
h2 {
  margin: var(--space-4) 0 var(--space-2);
}
</style>
