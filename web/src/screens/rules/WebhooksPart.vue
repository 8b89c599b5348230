<script setup lang="ts">
import Button from "primevue/button";
import InputText from "primevue/inputtext";
import Message from "primevue/message";
import { ref } from "vue";

import type { Project } from "@/api/types";
import { useWebhookChanges, useWebhooks, type WebhookEvent } from "@/api/webhooks";
import CheckField from "@/parts/fields/CheckField.vue";
import SendingList from "@/screens/team/SendingList.vue";
import { t } from "@/texts/team";

/** Addresses that are told what happens in the project: what they are told, what they answered. */
const props = defineProps<{ slug: string; project: Project; mayRule: boolean; mayPrepare: boolean }>();
const webhooks = useWebhooks(
  () => props.slug,
  () => props.mayRule,
);
const changes = useWebhookChanges(() => props.slug);
const EVENTS: { value: WebhookEvent; label: string }[] = [
  { value: "delivery", label: t("deliveriesThatEnd") },
  { value: "findings", label: t("setsThatWereChecked") },
  { value: "update", label: t("newerMastersInUse") },
];
const name = ref("");
const address = ref("");
const events = ref<WebhookEvent[]>(["delivery"]);
const key = ref("");
const shown = ref<number | null>(null);

async function add(): Promise<void> {
  const made = await changes.add(name.value, address.value, events.value);
  if (!made) return;
  key.value = made.key;
  name.value = address.value = "";
}
</script>

<template>
  <div class="webhooks scroll">
    <p v-if="!mayRule" class="soft">{{ t("webhooksAreFor") }}</p>
    <template v-else>
      <article v-for="one in webhooks.data.value" :key="one.id" :data-webhook="one.id">
        <div class="row">
          <b>{{ one.name }}</b> <span class="mono">{{ one.address }}</span>
          <span class="soft">{{ one.events.join(", ") }}{{ one.paused ? `, ${t("paused")}` : "" }}</span>
          <Button
            size="small"
            severity="secondary"
            :label="t('messages')"
            :aria-label="t('messagesOf', { name: one.name })"
            :aria-expanded="shown === one.id"
            @click="shown = shown === one.id ? null : one.id"
          />
          <Button
            size="small"
            severity="secondary"
            :label="one.paused ? t('goOn') : t('pause')"
            @click="changes.pause(one.id, !one.paused)"
          />
          <Button
            size="small"
            severity="secondary"
            :label="t('remove')"
            :aria-label="t('removeOf', { name: one.name })"
            @click="changes.remove(one.id)"
          />
        </div>
        <SendingList v-if="shown === one.id" :slug="slug" :webhook="one.id" />
      </article>
      <p v-if="!webhooks.data.value?.length" class="soft">{{ t("noWebhooks") }}</p>
      <Message v-if="key" severity="secondary" :closable="false" data-test="key">
        {{ t("keyShownOnce") }} <span class="mono">{{ key }}</span>
      </Message>
      <form class="row" @submit.prevent="add">
        <InputText v-model="name" :placeholder="t('name')" :aria-label="t('nameOfTheWebhook')" />
        <InputText
          v-model="address"
          class="address"
          :placeholder="t('https')"
          :aria-label="t('addressOfTheWebhook')"
        />
        <CheckField
          v-for="one in EVENTS"
          :key="one.value"
          v-model="events"
          :of="one.value"
          :label="one.label"
        />
        <Button
          type="submit"
          :label="t('addWebhook')"
          :disabled="!name.trim() || !address.trim() || !events.length"
        />
      </form>
    </template>
  </div>
</template>

<style scoped>
.webhooks {
  padding: var(--space-3) var(--space-4);
}
article {
  padding: var(--space-2) 0;
  border-bottom: 1px solid var(--line);
}
.row {
  flex-wrap: wrap;
  gap: var(--space-3);
}
form {
  margin-top: var(--space-3);
}
.address {
  width: 22rem;
}
</style>
