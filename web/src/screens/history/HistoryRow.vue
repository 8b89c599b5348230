<script setup lang="ts">
import Button from "primevue/button";
import { computed } from "vue";
import type { RouteLocationRaw } from "vue-router";

import type { HistoryLine } from "@/api/history";
import { t } from "@/texts/history";

import DifferenceList from "./DifferenceList.vue";

/** One line of the history: when, who, what, and what it was done to. */
const props = defineProps<{ slug: string; line: HistoryLine; open: boolean; here: boolean }>();
defineEmits<{ toggle: [] }>();
const time = computed(() => new Date(props.line.at).toLocaleTimeString([], { timeStyle: "short" }));
const objects = computed(() => props.line.about.filter((one) => one.called !== null).slice(0, 3));
const label = computed(() => props.line.label);

function to({ kind, key }: HistoryLine["about"][number]): RouteLocationRaw | null {
  const at = (name: string, more: Record<string, string> = {}) => ({
    name,
    params: { slug: props.slug, ...more },
  });
  if (kind === "sets") return at("set", { id: key });
  if (kind === "casts") return at("materials", { kind: "cast", key });
  if (kind === "meshes") return at("models", { id: key });
  if (kind === "masters") return at("materials", { kind: "master", key });
  if (kind === "functions") return at("materials", { kind: "function", key });
  if (kind === "grounds") return at("ground", { id: key });
  return null;
}
</script>

<template>
  <li :data-line="line.id" :class="{ here }">
    <span class="soft time">{{ time }}</span>
    <b>{{ line.by ?? t("somebody") }}</b>
    <span class="what">
      <span v-if="line.what === 'undo'" class="soft">{{ t("takenBack") }}: </span>
      <span v-else-if="line.what === 'redo'" class="soft">{{ t("makeAgain") }}: </span>
      <span :class="{ undone: line.undone }">{{ line.label }}</span>
      <span v-if="line.undone" class="soft"> ({{ t("takenBack") }})</span>
    </span>
    <span class="row objects">
      <template v-for="one in objects" :key="`${one.kind}:${one.key}`">
        <RouterLink v-if="to(one)" class="target" :to="to(one)!">{{ one.called }}</RouterLink>
        <span v-else class="soft">{{ one.called }}</span>
      </template>
      <span v-if="line.count > objects.length" class="soft">{{
        t("andMore", { count: line.count - objects.length })
      }}</span>
    </span>
    <Button
      v-if="line.has_more"
      text
      size="small"
      severity="secondary"
      :icon="open ? 'pi pi-chevron-up' : 'pi pi-chevron-down'"
      :aria-label="open ? t('closeDetails', { label }) : t('openDetails', { label })"
      :aria-expanded="open"
      @click="$emit('toggle')"
    />
    <div v-if="open" class="details"><DifferenceList :slug="slug" :line="line.id" /></div>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: 5.5rem 7rem minmax(12rem, 2fr) minmax(8rem, 1fr) 2.5rem;
  gap: 0 var(--space-3);
  align-items: center;
  min-height: 32px;
  padding: 0 var(--space-2);
  border-top: 1px solid var(--line);
}
li.here {
  box-shadow: inset 2px 0 var(--accent);
}
.time {
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}
.what {
  overflow-wrap: anywhere;
}
.undone {
  text-decoration: line-through;
}
.objects {
  gap: var(--space-2);
}
.details {
  grid-column: 3 / -1;
}
</style>
