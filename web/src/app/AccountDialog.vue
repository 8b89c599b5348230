<script setup lang="ts">
import Button from "primevue/button";
import Dialog from "primevue/dialog";
import InputNumber from "primevue/inputnumber";
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import Password from "primevue/password";
import { ref } from "vue";

import { usePeopleChanges, useTokens } from "@/api/people";

/** One's own account: password, sessions elsewhere, tokens for scripts. */
const open = defineModel<boolean>("open", { required: true });
const tokens = useTokens();
const changes = usePeopleChanges("");
const old = ref("");
const fresh = ref("");
const name = ref("");
const days = ref(365);
const made = ref("");
const day = (text: string | null) => (text ? text.slice(0, 10) : "never");

async function changePassword(): Promise<void> {
  if (await changes.changePassword(old.value, fresh.value)) old.value = fresh.value = "";
}
async function makeToken(): Promise<void> {
  const done = await changes.makeToken(name.value, days.value);
  if (!done) return;
  made.value = done.token;
  name.value = "";
}
</script>

<template>
  <Dialog v-model:visible="open" modal header="Your account" :style="{ width: '42rem' }" @hide="made = ''">
    <section>
      <h2>Password</h2>
      <form @submit.prevent="changePassword">
        <Password
          v-model="old"
          :feedback="false"
          placeholder="old password"
          input-id="old"
          aria-label="Old password"
        />
        <Password
          v-model="fresh"
          :feedback="false"
          placeholder="new, 12 characters or more"
          aria-label="New password"
        />
        <Button type="submit" label="Change password" :disabled="!old || !fresh" />
      </form>
      <Button severity="secondary" label="Sign out everywhere else" @click="changes.endSessions()" />
    </section>
    <section>
      <h2>Tokens for scripts</h2>
      <ul v-if="tokens.data.value?.length" data-test="tokens">
        <li v-for="one in tokens.data.value" :key="one.id">
          <b>{{ one.name }}</b>
          <span class="soft">ends: {{ day(one.until) }}, last used: {{ day(one.used) }}</span>
          <Button
            severity="secondary"
            label="Revoke"
            :aria-label="`Revoke ${one.name}`"
            @click="changes.revokeToken(one.id)"
          />
        </li>
      </ul>
      <p v-else class="soft">None yet. A token lets a script sign in as you.</p>
      <Message v-if="made" severity="secondary" :closable="false">
        <span class="mono">{{ made }}</span> Copy it now; it is not shown again.
      </Message>
      <form @submit.prevent="makeToken">
        <InputText v-model="name" placeholder="what it is for" aria-label="What the token is for" />
        <InputNumber
          v-model="days"
          :min="1"
          :max="3650"
          suffix=" days"
          aria-label="Days until the token ends"
        />
        <Button type="submit" label="Make token" :disabled="!name.trim()" />
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
  grid-template-columns: minmax(8rem, auto) 1fr auto;
  gap: 12px;
  align-items: center;
  padding: 3px 0;
}
</style>
