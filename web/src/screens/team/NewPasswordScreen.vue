<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import { ref } from "vue";

import { setNewPassword } from "@/api/accounts";
import { currentSession } from "@/api/session";
import { t } from "@/texts/team";

/** Set a new password with a link from an administrator. */
const secret = window.location.hash.slice(1);
const password = ref("");
const problem = ref(secret ? "" : t("linkMissing"));
const done = ref(false);

async function save(): Promise<void> {
  problem.value = "";
  try {
    await currentSession();
    await setNewPassword(secret, password.value);
    done.value = true;
  } catch (error) {
    problem.value = (error as Error).message;
  }
}
</script>

<template>
  <main class="card">
    <form @submit.prevent="save">
      <img src="/mark.svg" alt="" />
      <h1>{{ t("chooseANewPassword") }}</h1>
      <template v-if="done">
        <Message severity="success" :closable="false">{{ t("passwordIsSet") }}</Message>
        <RouterLink class="target" to="/sign-in">{{ t("signIn") }}</RouterLink>
      </template>
      <template v-else>
        <label for="password">{{ t("newPassword12") }}</label>
        <InputText
          id="password"
          v-model="password"
          type="password"
          autocomplete="new-password"
          autofocus
          required
        />
        <Message v-if="problem" severity="error" :closable="false" role="alert">{{ problem }}</Message>
        <Button type="submit" :label="t('savePassword')" :disabled="!secret || !password" />
      </template>
    </form>
  </main>
</template>
