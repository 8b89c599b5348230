<script setup lang="ts">
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable from "primevue/datatable";
import InputText from "primevue/inputtext";
import { computed, ref } from "vue";

import { may, type Member, type Right, RIGHTS, useLog, useMembers, usePeopleChanges } from "@/api/people";
import { useWho } from "@/api/session";
import type { Project } from "@/api/types";
import { whenOf } from "@/app/when";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import HandOver from "@/screens/team/HandOver.vue";
import InvitationList from "@/screens/team/InvitationList.vue";
import { t } from "@/texts/rules";

/** Who may do what in the project, and what its security log says. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const mayManage = computed(() => may(props.project.right, "manage"));
const handing = ref(false);
const who = useWho();
const members = useMembers(() => props.slug);
const log = useLog(
  () => props.slug,
  () => mayManage.value,
);
const changes = usePeopleChanges(() => props.slug);
const name = ref("");
const right = ref<Right>("look");
const words = (value: string) => RIGHTS.find((one) => one.value === value)?.label ?? value;

async function add(): Promise<void> {
  if (name.value.trim() && (await changes.setRight(name.value.trim(), right.value))) name.value = "";
}
</script>

<template>
  <div class="people scroll">
    <section :aria-label="t('members')">
      <h2>{{ t("members") }}</h2>
      <DataTable :value="members.data.value ?? []" data-test="members">
        <Column field="name" :header="t('name')" />
        <Column :header="t('right')">
          <template #body="{ data }: { data: Member }">
            <ChoiceField
              v-if="mayManage"
              :model-value="data.right"
              :options="RIGHTS"
              :label="t('rightOf', { name: data.name })"
              @update:model-value="$event && changes.setRight(data.name, $event, data)"
            />
            <span v-else>{{ words(data.right) }}</span>
          </template>
        </Column>
        <Column :header="t('remove2')">
          <template #body="{ data }: { data: Member }">
            <Button
              v-if="mayManage"
              severity="secondary"
              :label="t('remove2')"
              :aria-label="t('remove5', { name: data.name })"
              @click="changes.remove(data.name)"
            />
          </template>
        </Column>
        <template #empty>{{ t("nobodyYet") }}</template>
      </DataTable>
      <form v-if="mayManage" @submit.prevent="add">
        <InputText v-model="name" :placeholder="t('accountName')" :aria-label="t('accountName')" />
        <ChoiceField v-model="right" :options="RIGHTS" :label="t('right')" />
        <Button type="submit" :label="t('addMember')" :disabled="!name.trim()" />
      </form>
      <p v-else class="soft">{{ t("membersWithTheRightToSet") }}</p>
      <template v-if="mayManage">
        <Button severity="secondary" :label="t('handOver')" @click="handing = true" />
        <HandOver
          v-if="handing"
          v-model:open="handing"
          :slug="slug"
          :members="members.data.value ?? []"
          :own="who.name ?? ''"
        />
        <InvitationList :slug="slug" />
      </template>
    </section>
    <section v-if="mayManage" :aria-label="t('securityLog')">
      <h2>{{ t("securityLog") }}</h2>
      <DataTable :value="log.data.value ?? []" data-test="log">
        <Column :header="t('when')">
          <template #body="{ data }">{{ whenOf(data.at) }}</template>
        </Column>
        <Column field="event" :header="t('event')" />
        <Column field="name" :header="t('who')" />
        <Column field="about" :header="t('details')" />
        <Column field="address" :header="t('address')" />
        <template #empty>{{ t("nothingYetChangesOfRightsAnd") }}</template>
      </DataTable>
    </section>
  </div>
</template>

<style scoped>
.people {
  display: grid;
  grid-template-columns: minmax(26rem, 2fr) 3fr;
  gap: var(--space-6);
  align-items: start;
  padding: var(--space-3) var(--space-4);
}
h2 {
  margin-bottom: var(--space-2);
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  margin: var(--space-3) 0;
}
</style>
