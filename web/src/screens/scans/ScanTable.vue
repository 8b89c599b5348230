<script setup lang="ts">
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable from "primevue/datatable";

import { type Scan, useLibraries, useScanChanges, useScans } from "@/api/scans";
import { t } from "@/texts/scans";

/** What was taken in from scan libraries: what is being fetched, what broke off, what is newer there. */
const props = defineProps<{ slug: string; mayPrepare: boolean }>();
const libraries = useLibraries(() => props.slug);
const scans = useScans(() => props.slug);
const changes = useScanChanges(() => props.slug);
const isBroken = (one: Scan) => one.state === "failed" || one.state === "cancelled";
function standing(one: Scan): string {
  if (isBroken(one)) return one.message || one.state;
  if (one.state !== "done") return t("fetchingNow");
  return one.update_available ? t("newerThere", { newest: one.newest }) : t("isNewest");
}
</script>

<template>
  <section v-if="libraries.data.value?.length" :aria-label="t('fromLibraries')">
    <div class="row">
      <h2>{{ t("fromLibraries") }}</h2>
      <span class="grow" />
      <Button
        v-if="mayPrepare && scans.data.value?.length"
        text
        severity="secondary"
        :label="t('lookForNewer')"
        @click="changes.look()"
      />
      <Button
        as="router-link"
        text
        icon="pi pi-search"
        :label="t('searchALibrary')"
        :to="{ name: 'library', params: { slug } }"
      />
    </div>
    <DataTable v-if="scans.data.value?.length" :value="scans.data.value" data-key="id">
      <Column field="title" :header="t('name')" />
      <Column field="library" :header="t('library')" />
      <Column :header="t('taken')">
        <template #body="{ data }: { data: Scan }">
          <template v-if="data.revision">{{
            t("takenAt", { revision: data.revision, pixels: data.pixels })
          }}</template>
        </template>
      </Column>
      <Column :header="t('sets')">
        <template #body="{ data }: { data: Scan }">
          <RouterLink
            v-for="set in data.sets"
            :key="set.id"
            :to="{ name: 'set', params: { slug, id: set.id } }"
            >{{ set.name }}</RouterLink
          >
        </template>
      </Column>
      <Column :header="t('state')">
        <template #body="{ data }: { data: Scan }">
          <span class="row" :data-scan="data.surface" :data-state="data.state">
            <span :class="{ error: isBroken(data) }">{{ standing(data) }}</span>
            <Button
              v-if="mayPrepare && isBroken(data)"
              outlined
              size="small"
              :label="t('goOn')"
              :title="t('goOnHelp')"
              @click="changes.resume(data)"
            />
            <Button
              v-else-if="mayPrepare && data.state === 'done' && data.update_available"
              outlined
              size="small"
              :label="t('update')"
              :title="t('updateHelp')"
              @click="changes.update(data)"
            />
          </span>
        </template>
      </Column>
    </DataTable>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: var(--space-2);
}
</style>
