<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import { ref } from "vue";
import { useRoute } from "vue-router";

import { signIn } from "@/api/session";
import { t } from "@/texts/start";

const route = useRoute();
const name = ref("");
const password = ref("");
const problem = ref("");
const busy = ref(false);

async function enter(): Promise<void> {
  busy.value = true;
  problem.value = "";
  try {
    await signIn(name.value, password.value);
    const next =
      typeof route.query.next === "string" && /^\/(?!\/)/.test(route.query.next) ? route.query.next : "/";
    window.location.assign(next);
  } catch (error) {
    problem.value = (error as Error).message;
    busy.value = false;
  }
}
</script>

<template>
  <main class="card">
    <form @submit.prevent="enter">
      <img src="/mark.svg" alt="" />
      <h1>{{ t("fairTexel") }}</h1>
      <p class="soft">{{ t("texturesSortedCheckedRepairedPackedAnd") }}</p>
      <label for="name">{{ t("name") }}</label>
      <InputText id="name" v-model="name" name="name" autocomplete="username" autofocus required />
      <label for="password">{{ t("password") }}</label>
      <InputText
        id="password"
        v-model="password"
        name="password"
        type="password"
        autocomplete="current-password"
        required
      />
      <Message v-if="problem" severity="error" :closable="false" role="alert">{{ problem }}</Message>
      <Button type="submit" :label="t('signIn')" :loading="busy" />
    </form>
  </main>
</template>
