<script setup lang="ts">
import { computed, ref } from "vue";

import { useRoll } from "@/api/queries";
import { signOut } from "@/api/session";
import type { Project } from "@/api/types";

import AccountDialog from "./AccountDialog.vue";
import JobsBadge from "./JobsBadge.vue";
import { router } from "./router";
import { theme } from "./theme";

const props = defineProps<{ slug: string; project?: Project }>();
defineEmits<{ undo: []; redo: [] }>();

const places = [
  { name: "intake", label: "Intake" },
  { name: "roll", label: "Roll" },
  { name: "masters", label: "Masters" },
  { name: "deliveries", label: "Deliveries" },
  { name: "rules", label: "House rules" },
];
const accountOpen = ref(false);
const roll = useRoll(() => props.slug);
const undo = computed(() => roll.data.value?.undo ?? null);
const redo = computed(() => roll.data.value?.redo ?? null);

async function leave(): Promise<void> {
  await signOut();
  window.location.assign("/sign-in");
}
</script>

<template>
  <header>
    <RouterLink to="/" class="name" title="All projects"
      ><img src="/mark.svg" alt="" /> {{ project?.name ?? "…" }}</RouterLink
    >
    <nav aria-label="Places">
      <RouterLink
        v-for="place in places"
        :key="place.name"
        :to="{ name: place.name, params: { slug } }"
        :class="{
          here: $route.name === place.name || (place.name === 'roll' && $route.name === 'bench'),
        }"
        >{{ place.label }}</RouterLink
      >
    </nav>
    <div class="history">
      <button
        class="plain"
        :disabled="!undo"
        :title="undo ? `Undo your last change: ${undo}` : 'You have changed nothing that is left to undo'"
        @click="$emit('undo')"
      >
        <i class="pi pi-undo" /> Undo
      </button>
      <button
        class="plain"
        :disabled="!redo"
        :title="redo ? `Redo: ${redo}` : 'Nothing to redo'"
        @click="$emit('redo')"
      >
        <i class="pi pi-refresh" /> Redo
      </button>
    </div>
    <JobsBadge :slug="slug" />
    <button
      class="plain"
      title="Day or dim room"
      aria-label="Day or dim room"
      @click="theme = theme === 'day' ? 'dim' : 'day'"
    >
      <i :class="theme === 'day' ? 'pi pi-moon' : 'pi pi-sun'" />
    </button>
    <span class="soft"><kbd>?</kbd> keys</span>
    <button class="plain" title="Your password, sessions and tokens" @click="accountOpen = true">
      Account
    </button>
    <button class="plain" @click="leave">Sign out</button>
    <AccountDialog v-if="accountOpen" v-model:open="accountOpen" />
    <span class="visually-hidden">{{ router.currentRoute.value.name }}</span>
  </header>
</template>

<style scoped>
header {
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 0 14px;
  background: var(--sheet);
  border-bottom: 1px solid var(--line);
}
.name {
  display: flex;
  align-items: center;
  gap: 8px;
  font-weight: 650;
  text-decoration: none;
  color: var(--ink);
}
.name img {
  width: 16px;
}
nav {
  display: flex;
  align-self: stretch;
  gap: 2px;
}
nav a {
  display: flex;
  align-items: center;
  padding: 0 12px;
  text-decoration: none;
  color: var(--ink-soft);
  border-bottom: 2px solid transparent;
}
nav a.here {
  color: var(--ink);
  border-bottom-color: var(--accent);
}
.history {
  display: flex;
  gap: 12px;
  margin-left: auto;
}
.history button:disabled {
  color: var(--line-strong);
  cursor: default;
}
</style>
