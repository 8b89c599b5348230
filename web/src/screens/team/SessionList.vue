<script setup lang="ts">
import Button from "primevue/button";

import { usePeopleChanges, useSessions } from "@/api/people";
import { whenOf } from "@/app/when";
import { t } from "@/texts/team";

/** Where one is signed in; each can be ended. */
const sessions = useSessions();
const changes = usePeopleChanges("");
const BROWSERS = ["Firefox", "Edg", "Chrome", "Safari"];
const SYSTEMS = ["Windows", "Mac OS X", "Android", "iPhone", "Linux"];
/** Browser and system of what a browser says of itself; all of it where neither is known. */
function shortOf(agent: string): string {
  const named = [BROWSERS, SYSTEMS].map((names) => names.find((name) => agent.includes(name)));
  return named.every(Boolean)
    ? named.join(", ").replace("Edg,", "Edge,")
    : agent.slice(0, 60) || t("unknownBrowser");
}
</script>

<template>
  <section>
    <h2>{{ t("sessions") }}</h2>
    <ul data-test="sessions">
      <li v-for="one in sessions.data.value" :key="one.id">
        <b :title="one.agent">{{ shortOf(one.agent) }}</b>
        <span class="soft">{{
          t("sessionFacts", { address: one.address, began: whenOf(one.began), seen: whenOf(one.seen) })
        }}</span>
        <span v-if="one.own" class="soft">{{ t("thisOne") }}</span>
        <Button
          v-else
          size="small"
          severity="secondary"
          :label="t('endSession')"
          :aria-label="t('endSessionOf', { agent: shortOf(one.agent) })"
          @click="changes.endSession(one.id)"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
h2 {
  margin-bottom: 8px;
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
