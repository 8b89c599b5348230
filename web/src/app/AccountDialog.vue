<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import InputNumber from "primevue/inputnumber";
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import Password from "primevue/password";
import { ref } from "vue";

import { type Right, RIGHTS, rightWords, usePeopleChanges, useTokens } from "@/api/people";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import SessionList from "@/screens/team/SessionList.vue";
import { t } from "@/texts/app";

/** One's own account: password, sessions elsewhere, tokens for scripts. */
const open = defineModel<boolean>("open", { required: true });
const tokens = useTokens();
const changes = usePeopleChanges("");
const old = ref("");
const fresh = ref("");
const name = ref("");
const days = ref(365);
const right = ref<Right>("prepare");
const made = ref("");
const day = (text: string | null) => (text ? text.slice(0, 10) : "never");

async function changePassword(): Promise<void> {
  if (await changes.changePassword(old.value, fresh.value)) old.value = fresh.value = "";
}
async function makeToken(): Promise<void> {
  const done = await changes.makeToken(name.value, days.value, right.value);
  if (!done) return;
  made.value = done.token;
  name.value = "";
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    :header="t('yourAccount')"
    :style="{ width: '42rem' }"
    @hide="made = ''"
  >
    <section>
      <h2>{{ t("password") }}</h2>
      <form @submit.prevent="changePassword">
        <Password
          v-model="old"
          :feedback="false"
          :placeholder="t('oldPassword')"
          input-id="old"
          :aria-label="t('oldPassword2')"
        />
        <Password
          v-model="fresh"
          :feedback="false"
          :placeholder="t('new12CharactersOrMore')"
          :aria-label="t('newPassword')"
        />
        <Button type="submit" :label="t('changePassword')" :disabled="!old || !fresh" />
      </form>
      <Button severity="secondary" :label="t('signOutEverywhereElse')" @click="changes.endSessions()" />
    </section>
    <SessionList />
    <section>
      <h2>{{ t("tokensForScripts") }}</h2>
      <ul v-if="tokens.data.value?.length" data-test="tokens">
        <li v-for="one in tokens.data.value" :key="one.id">
          <b>{{ one.name }}</b>
          <span class="soft">{{ rightWords(one.right) }}</span>
          <span class="soft">{{ t("endsLastUsed", { day: day(one.until), day2: day(one.used) }) }}</span>
          <Button
            severity="secondary"
            :label="t('revoke')"
            :aria-label="t('revoke2', { name: one.name })"
            @click="changes.revokeToken(one.id)"
          />
        </li>
      </ul>
      <p v-else class="soft">{{ t("noneYetATokenLetsA") }}</p>
      <Message v-if="made" severity="secondary" :closable="false">
        <span class="mono">{{ made }}</span>
        {{ t("copyItNowItIsNot") }}
      </Message>
      <form @submit.prevent="makeToken">
        <InputText v-model="name" :placeholder="t('whatItIsFor')" :aria-label="t('whatTheTokenIsFor')" />
        <ChoiceField v-model="right" :options="RIGHTS" :label="t('whatTheTokenMayDo')" />
        <InputNumber
          v-model="days"
          :min="1"
          :max="3650"
          :suffix="t('days')"
          :aria-label="t('daysUntilTheTokenEnds')"
        />
        <Button type="submit" :label="t('makeToken')" :disabled="!name.trim()" />
      </form>
    </section>
  </Dialog>
</template>

<style scoped>
section + section {
  margin-top: 20px;
}
h2 {
  margin-bottom: 8px;
}
.p-message {
  margin-bottom: 10px;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 10px;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0 0 10px;
}
li {
  display: grid;
  grid-template-columns: minmax(8rem, auto) auto 1fr auto;
  gap: 12px;
  align-items: center;
  padding: 3px 0;
}
</style>
