<script setup lang="ts">
import Button from "primevue/button";
import Column from "primevue/column";
import DataTable from "primevue/datatable";
import InputText from "primevue/inputtext";
import { ref } from "vue";
import { useRouter } from "vue-router";

import { type Account, useAccountChanges, useAccounts } from "@/api/accounts";
import { whenOf } from "@/app/when";
import CheckField from "@/parts/fields/CheckField.vue";
import LinkOnce from "@/parts/LinkOnce.vue";
import ScreenHead from "@/parts/ScreenHead.vue";
import StateView from "@/parts/StateView.vue";
import { t } from "@/texts/team";

/** Everybody who has an account: who may sign in, who keeps the library; links for new passwords. */
const router = useRouter();
const accounts = useAccounts();
const changes = useAccountChanges();
const name = ref("");
const link = ref<{ path: string; until: string } | null>(null);

async function make(): Promise<void> {
  const done = await changes.make(name.value);
  if (!done) return;
  link.value = done;
  name.value = "";
}
async function reset(one: Account): Promise<void> {
  link.value = (await changes.reset(one.name)) ?? link.value;
}
async function signOut(one: Account): Promise<void> {
  const done = await changes.signOut(one.name);
  if (done) changes.notices.changed(t("signedOutOf", { name: one.name, count: done.sessions }));
}
</script>

<template>
  <main class="screen">
    <ScreenHead
      :title="t('accounts')"
      :state="t('accountsCount', { count: accounts.data.value?.length ?? 0 })"
    >
      <template #actions>
        <form class="row" @submit.prevent="make">
          <InputText v-model="name" :placeholder="t('accountName')" :aria-label="t('accountName')" />
          <Button type="submit" icon="pi pi-plus" :label="t('makeAccount')" :disabled="!name.trim()" />
        </form>
        <Button
          outlined
          severity="secondary"
          icon="pi pi-server"
          :label="t('server')"
          @click="router.push({ name: 'server' })"
        />
        <Button
          outlined
          severity="secondary"
          icon="pi pi-arrow-left"
          :label="t('back')"
          @click="router.back()"
        />
      </template>
    </ScreenHead>
    <div class="scroll content" tabindex="0" role="region" :aria-label="t('whoHasAnAccount')">
      <LinkOnce v-if="link" :key="link.path" :link="link" />
      <StateView :query="accounts">
        <DataTable :value="accounts.data.value ?? []" data-test="accounts" size="small">
          <Column :header="t('name')">
            <template #body="{ data }: { data: Account }">
              <span class="row">
                <b>{{ data.name }}</b>
                <span v-if="data.administrator" class="soft">{{ t("administrator") }}</span>
                <span v-if="!data.active" class="soft">{{ t("closed") }}</span>
                <span v-if="!data.has_password" class="soft">{{ t("notSetYet") }}</span>
              </span>
            </template>
          </Column>
          <Column field="projects" :header="t('projects')" />
          <Column :header="t('lastSignIn')">
            <template #body="{ data }: { data: Account }">{{
              data.last_sign_in ? whenOf(data.last_sign_in) : t("never")
            }}</template>
          </Column>
          <Column :header="t('keepsLibrary')">
            <template #body="{ data }: { data: Account }">
              <CheckField
                hidden
                :model-value="data.keeps_library"
                :disabled="data.administrator"
                :label="t('keepsLibraryOf', { name: data.name })"
                @update:model-value="changes.set(data.name, { keeps_library: Boolean($event) })"
              />
            </template>
          </Column>
          <Column :header="t('actions')">
            <template #body="{ data }: { data: Account }">
              <div class="row acts">
                <Button
                  size="small"
                  severity="secondary"
                  :label="t('newPasswordLink')"
                  :aria-label="t('newPasswordLinkOf', { name: data.name })"
                  @click="reset(data)"
                />
                <Button
                  size="small"
                  severity="secondary"
                  :label="t('signOutEverywhere')"
                  :aria-label="t('signOutEverywhereOf', { name: data.name })"
                  @click="signOut(data)"
                />
                <Button
                  size="small"
                  severity="secondary"
                  :label="data.active ? t('closeAccount') : t('openAgain')"
                  :aria-label="
                    data.active
                      ? t('closeAccountOf', { name: data.name })
                      : t('openAgainOf', { name: data.name })
                  "
                  @click="changes.set(data.name, { active: !data.active })"
                />
              </div>
            </template>
          </Column>
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
.acts {
  gap: var(--space-2);
  justify-content: flex-end;
}
</style>
