<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import { ref, watch } from "vue";
import { useRoute } from "vue-router";

import { comeBack, goElsewhere } from "@/api/elsewhere";
import { signIn, useWho } from "@/api/session";
import { t } from "@/texts/start";

const route = useRoute();
const name = ref("");
const password = ref("");
const problem = ref("");
const busy = ref(false);
const who = useWho();
const asked = (key: string) => (typeof route.query[key] === "string" ? route.query[key] : "");
/** Never to another site. */
const inside = (path: string) => (/^\/(?!\/)/.test(path) ? path : "/");

async function tried(work: () => Promise<string | void>): Promise<void> {
  busy.value = true;
  problem.value = "";
  try {
    const next = await work();
    if (next !== undefined) window.location.assign(inside(next));
  } catch (error) {
    problem.value = (error as Error).message;
    busy.value = false;
  }
}
const enter = () =>
  tried(async () => {
    await signIn(name.value, password.value);
    return asked("next");
  });
const elsewhere = () => tried(() => goElsewhere(inside(asked("next"))));
watch(
  () => route.query,
  () => {
    const [code, state] = [asked("code"), asked("state")];
    if (code && state) void tried(() => comeBack(code, state));
    else if (asked("error")) problem.value = asked("error_description") || t("signInRefusedElsewhere");
  },
  { immediate: true },
);
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
      <Button
        v-if="who.elsewhere"
        severity="secondary"
        :label="t('signInBy', { name: who.elsewhere })"
        :disabled="busy"
        @click="elsewhere"
      />
    </form>
  </main>
</template>
