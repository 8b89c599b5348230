<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import { onMounted, ref } from "vue";

import { lookAtInvitation, takeInvitation } from "@/api/accounts";
import { rightWords } from "@/api/people";
import { currentSession, forgetSession } from "@/api/session";
import { t } from "@/texts/team";

/** Join a project by a link: as who one is, or with a new account. What the link carries is behind the # of the
 * address, which browsers send nowhere. */
const KEPT = "fair-texel-invitation";
const secret = window.location.hash.slice(1) || sessionStorage.getItem(KEPT) || "";
const told = ref<{ project: string; right: string; by: string | null } | null>(null);
const own = ref<string | null>(null);
const name = ref("");
const password = ref("");
const problem = ref("");
const busy = ref(false);
/** Through signing in and back; in an address it would be sent to the server. */
const keep = () => sessionStorage.setItem(KEPT, secret);
const signIn = { name: "sign-in", query: { next: "/invitation" } };

onMounted(async () => {
  if (!secret) return void (problem.value = t("linkMissing"));
  try {
    own.value = (await currentSession()).name;
    told.value = await lookAtInvitation(secret);
  } catch (error) {
    problem.value = (error as Error).message;
  }
});

async function join(): Promise<void> {
  busy.value = true;
  problem.value = "";
  try {
    const { slug } = own.value
      ? await takeInvitation(secret)
      : await takeInvitation(secret, name.value.trim(), password.value);
    sessionStorage.removeItem(KEPT);
    forgetSession();
    window.location.assign(`/p/${slug}`);
  } catch (error) {
    problem.value = (error as Error).message;
    busy.value = false;
  }
}
</script>

<template>
  <main class="card">
    <form @submit.prevent="join">
      <img src="/mark.svg" alt="" />
      <template v-if="told">
        <h1>{{ t("joinProject", { project: told.project }) }}</h1>
        <p class="soft">{{ t("byInvitationOf", { by: told.by ?? "–", right: rightWords(told.right) }) }}</p>
        <template v-if="own === null">
          <p>{{ t("chooseNameAndPassword") }}</p>
          <label for="name">{{ t("name") }}</label>
          <InputText id="name" v-model="name" autocomplete="username" autofocus required />
          <label for="password">{{ t("newPassword12") }}</label>
          <InputText id="password" v-model="password" type="password" autocomplete="new-password" required />
        </template>
      </template>
      <Message v-if="problem" severity="error" :closable="false" role="alert">{{ problem }}</Message>
      <Button
        v-if="told"
        type="submit"
        :label="own === null ? t('joinAsNewcomer') : t('joinAs', { name: own })"
        :loading="busy"
      />
      <RouterLink v-if="own === null" class="target" :to="signIn" @click="keep">{{
        t("signInInstead")
      }}</RouterLink>
    </form>
  </main>
</template>
