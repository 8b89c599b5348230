<script setup lang="ts">
import Button from "primevue/button";
import Menu from "primevue/menu";
import { computed, ref } from "vue";

import { useSets } from "@/api/queries";
import { signOut, useWho } from "@/api/session";
import type { Project } from "@/api/types";
import { t } from "@/texts/app";

import InboxBadge from "@/screens/team/InboxBadge.vue";

import AccountDialog from "./AccountDialog.vue";
import JobsBadge from "./JobsBadge.vue";
import { listOpen } from "./keys";
import { PLACES, placeOf } from "./places";
import { router } from "./router";
import { theme } from "./theme";

/** The bar above every screen of a project: where one is, what can be undone, what runs, and who one is. */
const props = defineProps<{ slug: string; project?: Project }>();
defineEmits<{ undo: []; redo: []; command: [] }>();

const accountOpen = ref(false);
const setList = useSets(() => props.slug);
const undo = computed(() => setList.data.value?.undo ?? null);
const redo = computed(() => setList.data.value?.redo ?? null);
const menu = ref<InstanceType<typeof Menu>>();
const who = useWho();

async function leave(): Promise<void> {
  await signOut();
  window.location.assign("/sign-in");
}
const entries = computed(() => [
  {
    label: theme.value === "light" ? t("themeLightSwitchToDim") : t("themeDimSwitchToLight"),
    icon: theme.value === "light" ? "pi pi-moon" : "pi pi-sun",
    command: () => (theme.value = theme.value === "light" ? "dim" : "light"),
  },
  { label: t("keys2"), icon: "pi pi-question-circle", command: () => (listOpen.value = true) },
  { label: t("glossary"), icon: "pi pi-book", command: () => void router.push({ name: "glossary" }) },
  { label: t("account"), icon: "pi pi-user", command: () => (accountOpen.value = true) },
  {
    label: t("accounts"),
    icon: "pi pi-users",
    visible: who.value.administrator,
    command: () => void router.push({ name: "accounts" }),
  },
  { separator: true },
  { label: t("signOut"), icon: "pi pi-sign-out", command: () => void leave() },
]);
</script>

<template>
  <header>
    <RouterLink to="/" class="project" :title="t('allProjects')"
      ><img src="/mark.svg" alt="" /> <span class="name">{{ project?.name ?? "…" }}</span></RouterLink
    >
    <nav :aria-label="t('places')">
      <RouterLink
        v-for="place in PLACES"
        :key="place.name"
        :to="{ name: place.name, params: { slug } }"
        :class="{ here: placeOf($route.name) === place.name }"
        :aria-current="placeOf($route.name) === place.name ? 'page' : undefined"
        :title="`${place.label} (${place.key})`"
        >{{ place.label }}</RouterLink
      >
    </nav>
    <div class="tools">
      <Button
        class="command"
        outlined
        severity="secondary"
        icon="pi pi-search"
        :label="t('goTo2')"
        :title="t('goToAnythingRunAnyAction2')"
        @click="$emit('command')"
      />
      <Button
        text
        severity="secondary"
        icon="pi pi-undo"
        :label="t('undo')"
        :disabled="!undo"
        :title="undo ? t('undoZ', { undo }) : t('nothingToUndo')"
        @click="$emit('undo')"
      />
      <Button
        text
        severity="secondary"
        icon="pi pi-refresh"
        :aria-label="t('redo')"
        :disabled="!redo"
        :title="redo ? t('redoShiftZ', { redo }) : t('nothingToRedo')"
        @click="$emit('redo')"
      />
      <JobsBadge :slug="slug" />
      <InboxBadge />
      <Button
        text
        severity="secondary"
        icon="pi pi-user"
        :label="who.name ?? ''"
        aria-haspopup="menu"
        :title="t('themeKeysGlossaryAccount')"
        @click="menu?.toggle($event)"
      />
      <Menu ref="menu" :model="entries" popup />
    </div>
    <AccountDialog v-if="accountOpen" v-model:open="accountOpen" />
  </header>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 var(--space-4);
  padding: 0 var(--space-3);
  min-height: 40px;
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
.project {
  display: flex;
  align-items: center;
  gap: var(--space-2);
  min-height: 32px;
  font-weight: 650;
  text-decoration: none;
  color: var(--ink);
}
.name {
  max-width: 12rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.project img {
  width: 16px;
}
nav {
  display: flex;
  align-self: stretch;
  flex-wrap: wrap;
}
nav a {
  display: flex;
  align-items: center;
  min-height: 32px;
  padding: 0 10px;
  text-decoration: none;
  color: var(--ink-soft);
  border-bottom: 2px solid transparent;
}
nav a.here {
  color: var(--ink);
  border-bottom-color: var(--accent);
}
.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: var(--space-1);
  margin-left: auto;
}
</style>
