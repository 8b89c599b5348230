<script setup lang="ts">
import Button from "primevue/button";
import InputNumber from "primevue/inputnumber";
import InputText from "primevue/inputtext";
import { ref } from "vue";

import { type Right, RIGHTS, rightWords, useInvitations, usePeopleChanges } from "@/api/people";
import { whenOf } from "@/app/when";
import ChoiceField from "@/parts/fields/ChoiceField.vue";
import LinkOnce from "@/parts/LinkOnce.vue";
import { t } from "@/texts/team";

/** Open invitations into a project, and a new one: a link that works once. */
const props = defineProps<{ slug: string }>();
const invitations = useInvitations(
  () => props.slug,
  () => true,
);
const changes = usePeopleChanges(() => props.slug);
const right = ref<Right>("prepare");
const days = ref(7);
const about = ref("");
const made = ref<{ path: string; until: string } | null>(null);

async function invite(): Promise<void> {
  const done = await changes.invite(right.value, days.value, about.value);
  if (!done) return;
  made.value = done;
  about.value = "";
}
</script>

<template>
  <section :aria-label="t('invitations')">
    <h2>{{ t("invitations") }}</h2>
    <ul v-if="invitations.data.value?.length" data-test="invitations">
      <li v-for="one in invitations.data.value" :key="one.id">
        <b>{{ one.about || "–" }}</b>
        <span class="soft">{{ rightWords(one.right) }}</span>
        <span class="soft">{{ t("ends", { day: whenOf(one.until) }) }}</span>
        <Button
          size="small"
          severity="secondary"
          :label="t('takeBack')"
          :aria-label="t('takeBackFor', { about: one.about })"
          @click="changes.revokeInvitation(one.id)"
        />
      </li>
    </ul>
    <p v-else class="soft">{{ t("noOpenInvitations") }}</p>
    <LinkOnce v-if="made" :link="made" />
    <form @submit.prevent="invite">
      <InputText v-model="about" :placeholder="t('forWhom')" :aria-label="t('forWhom')" />
      <ChoiceField v-model="right" :options="RIGHTS" :label="t('rightOfInvitation')" />
      <InputNumber
        v-model="days"
        :min="1"
        :max="90"
        :suffix="t('days')"
        :aria-label="t('daysUntilTheLinkEnds')"
      />
      <Button type="submit" :label="t('inviteByLink')" />
    </form>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0 0 var(--space-2);
}
li {
  display: grid;
  grid-template-columns: minmax(6rem, 1fr) auto auto auto;
  gap: var(--space-3);
  align-items: center;
  padding: 2px 0;
}
h2 {
  margin: var(--space-4) 0 var(--space-2);
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: var(--space-2);
  margin-top: var(--space-2);
}
form :deep(.p-inputnumber-input) {
  width: 6rem;
}
</style>
