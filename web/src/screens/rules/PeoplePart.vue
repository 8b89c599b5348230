<script setup lang="ts">
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable from "primevue/datatable";
import InputText from "primevue/inputtext";
import { ref } from "vue";

import { type Member, RIGHTS, useLog, useMembers, usePeopleChanges } from "@/api/people";
import type { Project } from "@/api/types";
import { whenOf } from "@/app/when";
import ChoiceField from "@/parts/fields/ChoiceField.vue";

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
const words = (value: string) => RIGHTS.find((one) => one.value === value)?.label ?? value;

async function add(): Promise<void> {
  if (name.value.trim() && (await changes.setRight(name.value.trim(), right.value))) name.value = "";
}
</script>

<template>
  <div class="people scroll">
    <section aria-label="Members">
      <h2>Members</h2>
      <DataTable :value="members.data.value ?? []" data-test="members">
        <Column field="name" header="Name" />
        <Column header="Right">
          <template #body="{ data }: { data: Member }">
            <ChoiceField
              v-if="mayRule"
              :model-value="data.right"
              :options="RIGHTS"
              :label="`Right of ${data.name}`"
              @update:model-value="$event && changes.setRight(data.name, $event, data)"
            />
            <span v-else>{{ words(data.right) }}</span>
          </template>
        </Column>
        <Column header="Remove">
          <template #body="{ data }: { data: Member }">
            <Button
              v-if="mayRule"
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
        <InputText v-model="name" placeholder="Account name" aria-label="Account name" />
        <ChoiceField v-model="right" :options="RIGHTS" label="Right" />
        <Button type="submit" label="Add member" :disabled="!name.trim()" />
      </form>
      <p v-else class="soft">Members with the right to set the rules add and remove people.</p>
    </section>
    <section v-if="mayRule" aria-label="Security log">
      <h2>Security log</h2>
      <DataTable :value="log.data.value ?? []" data-test="log">
        <Column header="When">
          <template #body="{ data }">{{ whenOf(data.at) }}</template>
        </Column>
        <Column field="event" header="Event" />
        <Column field="name" header="Who" />
        <Column field="about" header="Details" />
        <Column field="address" header="Address" />
        <template #empty
          >Nothing yet. Changes of rights and members, and refused requests, are listed here.</template
        >
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
  margin-top: var(--space-3);
}
</style>
