<script setup lang="ts">
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable from "primevue/datatable";
import InputText from "primevue/inputtext";
import Select from "primevue/select";
import { ref } from "vue";

import { type Member, RIGHTS, useLog, useMembers, usePeopleChanges } from "@/api/people";
import type { Project } from "@/api/types";

/** Who may do what in the project, and what its security log says. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const members = useMembers(() => props.slug);
const log = useLog(
  () => props.slug,
  () => props.mayRule,
);
const changes = usePeopleChanges(() => props.slug);
const name = ref("");
const right = ref("look");
const when = (text: string) => new Date(text).toLocaleString([], { dateStyle: "medium", timeStyle: "short" });
const words = (value: string) => RIGHTS.find((one) => one.value === value)?.label ?? value;

async function add(): Promise<void> {
  if (name.value.trim() && (await changes.setRight(name.value.trim(), right.value))) name.value = "";
}
</script>

<template>
  <div class="people scroll">
    <section aria-label="Members">
      <h1>Members</h1>
      <DataTable :value="members.data.value ?? []" size="small" data-test="members">
        <Column field="name" header="Name" />
        <Column header="Right">
          <template #body="{ data }: { data: Member }">
            <Select
              v-if="mayRule"
              :model-value="data.right"
              :options="RIGHTS"
              option-label="label"
              option-value="value"
              size="small"
              :aria-label="`What ${data.name} may do`"
              @update:model-value="changes.setRight(data.name, $event, data)"
            />
            <span v-else>{{ words(data.right) }}</span>
          </template>
        </Column>
        <Column>
          <template #body="{ data }: { data: Member }">
            <Button
              v-if="mayRule"
              size="small"
              severity="secondary"
              label="Remove"
              :aria-label="`Remove ${data.name}`"
              @click="changes.remove(data.name)"
            />
          </template>
        </Column>
        <template #empty>Nobody yet.</template>
      </DataTable>
      <form v-if="mayRule" @submit.prevent="add">
        <InputText v-model="name" size="small" placeholder="account name" aria-label="Account name" />
        <Select
          v-model="right"
          :options="RIGHTS"
          option-label="label"
          option-value="value"
          size="small"
          aria-label="What they may do"
        />
        <Button type="submit" size="small" label="Add member" :disabled="!name.trim()" />
      </form>
      <p v-else class="soft">Whoever may set the rules adds and removes members.</p>
    </section>
    <section v-if="mayRule" aria-label="Security log">
      <h1>Security log</h1>
      <DataTable :value="log.data.value ?? []" size="small" data-test="log">
        <Column header="When">
          <template #body="{ data }">{{ when(data.at) }}</template>
        </Column>
        <Column field="event" header="What" />
        <Column field="name" header="Who" />
        <Column field="about" header="About" />
        <Column field="address" header="From" />
        <template #empty>Nothing yet: changes of rights, members and refusals are noted here.</template>
      </DataTable>
    </section>
  </div>
</template>

<style scoped>
.people {
  display: grid;
  grid-template-columns: minmax(26rem, 2fr) 3fr;
  gap: 32px;
  align-items: start;
  padding: 16px 20px;
}
h1 {
  margin-bottom: 8px;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 12px;
}
</style>
